import type { AnswerOf, Given, Operation } from '#shared/api/operation'

/** Calls an operation that answers with one JSON line per part; a line that is a refusal is thrown as one. */
export async function* streamApi<O extends Operation>(operation: O, given: Given<O>, signal: AbortSignal): AsyncGenerator<AnswerOf<O>> {
  const { body } = await send(operation, given, signal)
  for await (const line of linesOf(body!)) {
    const part = JSON.parse(line) as AnswerOf<O> | { fault: Refused['why'] }
    if (part !== null && typeof part === 'object' && 'fault' in part && !('step' in part || 'verdict' in part))
      throw new Refused((part as { fault: Refused['why'] }).fault, [])
    yield part as AnswerOf<O>
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
