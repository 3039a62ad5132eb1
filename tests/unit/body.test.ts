import { EventEmitter } from 'node:events'
import { PassThrough } from 'node:stream'
import type { H3Event } from 'h3'
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import type { Refusal } from '../../server/answers/refusalError'
import { readJson } from '../../server/answers/body'

beforeEach(() => void vi.useFakeTimers())
afterEach(() => void vi.useRealTimers())

const request = (headers: Record<string, string> = {}) => {
  const req = Object.assign(new PassThrough(), { headers, complete: false })
  const res = new EventEmitter()
  const body = readJson({ node: { req, res } } as unknown as H3Event, 100)
  const code = body.then(
    () => 'read',
    (refusal: Refusal) => refusal.why.code,
  )
  return { req, res, body, code }
}

describe('a body', () => {
  it('is read as JSON, in however many parts it comes', async () => {
    const { req, body } = request()
    req.write('{"a":')
    req.end('[1]}')
    expect(await body).toEqual({ a: [1] })
  })

  it('may be missing', async () => {
    const { req, body } = request()
    req.end()
    expect(await body).toBeUndefined()
  })

  it.each([
    ['no JSON', 'entry.unreadable', (req: PassThrough) => req.end('{"a":')],
    ['broken off', 'entry.unreadable', (req: PassThrough) => req.destroy()],
    ['larger than may be', 'entry.too-large', (req: PassThrough) => req.write('x'.repeat(101))],
  ])('that is %s is refused', async (_, expected, send) => {
    const { req, code } = request()
    send(req)
    expect(await code).toBe(expected)
  })

  it('that says how large it is is refused before it comes', async () => {
    expect(await request({ 'content-length': '101' }).code).toBe('entry.too-large')
  })

  it('that drips in is refused after half a minute, and its connection ended soon after the answer', async () => {
    const { req, res, code } = request()
    const dripping = setInterval(() => req.write(' '), 1000)
    await vi.advanceTimersByTimeAsync(29_900)
    const early = await Promise.race([code, Promise.resolve('waits')])
    expect(early).toBe('waits')
    await vi.advanceTimersByTimeAsync(200)
    expect(await code).toBe('entry.too-slow')
    clearInterval(dripping)
    expect(req.destroyed).toBe(false)
    res.emit('finish')
    await vi.advanceTimersByTimeAsync(2100)
    expect(req.destroyed).toBe(true)
  })
})
