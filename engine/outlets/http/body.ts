import type { IncomingMessage } from 'node:http'
import { fault, type Fault } from '#core/faults/catalogue'
import { parseJson } from '#core/messages/json'

export type ReadBody = { ok: true; bytes: Buffer } | { ok: false; why: Fault }

/** Reads a body to its end, unless it is too large; what is left of one that is too large is not read. @param most kB */
export const readBody = async (request: IncomingMessage, most: number): Promise<ReadBody> => {
  const tooLarge: ReadBody = { ok: false, why: fault('serve.too-large', { most }) }
  if (Number(request.headers['content-length'] ?? 0) > most * 1024) return tooLarge
  const chunks: Buffer[] = []
  let length = 0
  try {
    for await (const chunk of request as AsyncIterable<Buffer>) {
      length += chunk.length
      if (length > most * 1024) return tooLarge
      chunks.push(chunk)
    }
  } catch {
    return { ok: false, why: fault('serve.body', { problem: 'it broke off' }) }
  }
  const bytes = Buffer.concat(chunks)
  read.set(request, bytes)
  return { ok: true, bytes }
}

const read = new WeakMap<IncomingMessage, Buffer>()
/** The body of a request that was read to its end. */
export const bodyRead = (request: IncomingMessage): Buffer | null => read.get(request) ?? null

export type ReadJson = { ok: true; value: unknown } | { ok: false; why: Fault }

/** A body as JSON; undefined: there is none. @param parse where it holds no numbers, the quicker one will do */
export const jsonBody = (bytes: Buffer, type: string | undefined, parse: (text: string) => unknown = parseJson): ReadJson => {
  if (bytes.length === 0) return { ok: true, value: undefined }
  const refused = (problem: string): ReadJson => ({ ok: false, why: fault('serve.body', { problem }) })
  if (type === undefined) return refused('it does not say what it is')
  if (!/^application\/([\w.-]+\+)?json\b/i.test(type)) return refused(`it is ${type.slice(0, 100)}`)
  try {
    return { ok: true, value: parse(new TextDecoder('utf-8', { fatal: true }).decode(bytes)) }
  } catch (error) {
    return refused((error as Error).message)
  }
}
