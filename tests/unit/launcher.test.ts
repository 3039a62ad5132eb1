import { mkdtempSync, readFileSync, rmSync } from 'node:fs'
import { createServer } from 'node:net'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { afterEach, beforeEach, describe, expect, it } from 'vitest'
import { Child } from '../../launcher/child.mjs'
import { choosePorts, freePort } from '../../launcher/ports.mjs'
import { secretOf } from '../../launcher/postgres.mjs'
import { until } from '../support/until'

let folder: string
beforeEach(() => (folder = mkdtempSync(join(tmpdir(), 'conduit-launcher-'))))
afterEach(() => rmSync(folder, { recursive: true, force: true }))

describe('ports', () => {
  it('are the ones wished for, kept for the next time, and others where they are taken', async () => {
    const [web, modbus] = [await freePort(), await freePort()]
    const first = await choosePorts(folder, { web, modbus, rpc: 0 })
    expect(first).toMatchObject({ web, modbus })
    expect(await choosePorts(folder, { web: 0, modbus: 0, rpc: 0 })).toEqual(first)
    const blocker = createServer()
    await new Promise<void>((resolve) => blocker.listen(web, '127.0.0.1', resolve))
    const moved = await choosePorts(folder, { web, modbus, rpc: 0 })
    expect(moved.web).not.toBe(web)
    expect(moved.modbus).toBe(modbus)
    blocker.close()
  })

  it('are none that the system gives to outgoing connections, which may take one before its server opens it', async () => {
    for (let tries = 0; tries < 20; tries++) expect(await freePort()).toBeLessThan(32_768)
  })

  it('are never given out twice', async () => {
    const wish = await freePort()
    const { a, b } = await choosePorts(folder, { a: wish, b: wish })
    expect(a).not.toBe(b)
  })
})

describe('secrets', () => {
  it('are made once, are long, and lie in a file that only its owner reads', async () => {
    const secret = secretOf(folder, 'rpc')
    expect(secret.length).toBeGreaterThanOrEqual(32)
    expect(secretOf(folder, 'rpc')).toBe(secret)
    expect(secretOf(folder, 'database')).not.toBe(secret)
    const { statSync } = await import('node:fs')
    expect(statSync(join(folder, 'secrets.json')).mode & 0o077).toBe(0)
  })
})

describe('a watched process', () => {
  const script = (text: string) => ({ name: 'worker', command: process.execPath, args: ['-e', text] })

  it('is brought back when it is killed, and says so', async () => {
    const told: string[] = []
    const child = new Child(script('setInterval(() => {}, 1000)'), folder, (text: string) => told.push(text))
    child.start()
    const first = child.process!.pid!
    process.kill(first, 'SIGKILL')
    await until(
      () => child.process?.pid,
      (pid) => pid !== undefined && pid !== first,
    )
    expect(told[0]).toBe('worker ended (SIGKILL); bringing it back')
    await child.stop()
    expect(child.process).toBeNull()
  })

  it('is left alone once it is stopped, and its words are in the log', async () => {
    const child = new Child(script('console.log("here I am"); setInterval(() => {}, 1000)'), folder, () => {})
    child.start()
    const log = join(folder, 'worker.log')
    await until(() => {
      try {
        return readFileSync(log, 'utf8').includes('here I am')
      } catch {
        return false
      }
    })
    const pid = child.process!.pid!
    await child.stop()
    expect(() => process.kill(pid, 0)).toThrow()
  })

  it('that ends at once again and again is tried with growing pauses', async () => {
    let ends = 0
    const child = new Child(script('process.exit(3)'), folder, () => ends++)
    child.start()
    await until(() => ends >= 2)
    const before = ends
    await new Promise((resolve) => setTimeout(resolve, 300))
    expect(ends - before).toBeLessThanOrEqual(1)
    await child.stop()
  })
})
