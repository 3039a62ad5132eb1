import type { H3Event } from 'h3'
import { fault } from '#core/faults/catalogue'
import { Refusal } from './refusalError'

/** A body that is not there after so long is not coming. */
const slowestMs = 30_000

/** Reads a JSON body, and stops reading as soon as it is larger or slower than may be. */
export const readJson = async (event: H3Event, mostBytes: number): Promise<unknown> => {
  const text = (await readBytes(event, mostBytes)).toString('utf8')
  if (text === '') return undefined
  try {
    return JSON.parse(text) as unknown
  } catch (error) {
    throw new Refusal(fault('entry.unreadable', { problem: (error as Error).message }))
  }
}

/** Reads a body as it is. */
export const readBytes = (event: H3Event, mostBytes: number): Promise<Buffer> => {
  const { req } = event.node
  if (Number(req.headers['content-length'] ?? 0) > mostBytes) return Promise.reject(giveUp(event, tooLarge(mostBytes)))
  return new Promise((resolve, reject) => {
    const parts: Buffer[] = []
    let size = 0
    const stop = (why: Refusal | null) => {
      clearTimeout(timer)
      req.off('data', take).off('end', done).off('error', broken).off('close', broken)
      if (why) reject(giveUp(event, why))
    }
    const take = (part: Buffer) => {
      size += part.length
      if (size > mostBytes) stop(tooLarge(mostBytes))
      else parts.push(part)
    }
    const done = () => {
      stop(null)
      resolve(Buffer.concat(parts))
    }
    const broken = () => stop(new Refusal(fault('entry.unreadable', { problem: 'it broke off before its end' })))
    const timer = setTimeout(() => stop(new Refusal(fault('entry.too-slow', { seconds: slowestMs / 1000 }))), slowestMs)
    req.on('data', take).on('end', done).on('error', broken).on('close', broken)
  })
}

const tooLarge = (most: number) => new Refusal(fault('entry.too-large', { most }))

/**
 * The rest of the body is not wanted: it is let go by while the answer goes out, and soon the connection
 * ends. Cut at once, with bytes unread, the connection would take the answer with it (RFC 9112, 9.6);
 * announced as closing, it would be cut by the server as soon as the answer is written.
 */
const giveUp = (event: H3Event, why: Refusal): Refusal => {
  const { req, res } = event.node
  req.resume()
  res.once('finish', () => setTimeout(() => req.complete || req.destroy(), lingerMs).unref())
  return why
}

const lingerMs = 2000
