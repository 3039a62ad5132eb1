/** Calls an API that answers with one JSON line per part; a line that is a refusal is thrown as one. */
export async function* streamApi<T>(path: string, body: unknown, signal: AbortSignal): AsyncGenerator<T> {
  const response = await fetch(`/api${path}`, {
    method: 'POST',
    body: JSON.stringify(body),
    headers: { 'content-type': 'application/json' },
    signal,
  })
  if (!response.ok || !response.body) {
    const refused = await refusalOf(response)
    if (refused.why.code === 'access.sign-in') useSession().noteLost()
    throw refused
  }
  for await (const line of linesOf(response.body)) {
    const part = JSON.parse(line) as T | { fault: Refused['why'] }
    if (part !== null && typeof part === 'object' && 'fault' in part && !('step' in part)) throw new Refused(part.fault, [])
    yield part as T
  }
}

async function* linesOf(body: ReadableStream<Uint8Array>): AsyncGenerator<string> {
  const reader = body.pipeThrough(new TextDecoderStream() as ReadableWritablePair<string, Uint8Array>).getReader()
  let rest = ''
  for (let part = await reader.read(); !part.done; part = await reader.read()) {
    const lines = (rest + part.value).split('\n')
    rest = lines.pop()!
    yield* lines.filter(Boolean)
  }
}
