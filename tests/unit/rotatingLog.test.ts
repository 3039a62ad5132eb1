import { existsSync, mkdtempSync, readFileSync, rmSync, statSync, symlinkSync, unlinkSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { afterEach, beforeEach, expect, it } from 'vitest'
import { rotatingLog } from '../../launcher/rotatingLog.mjs'
import { until } from '../support/until'

let folder: string
beforeEach(() => (folder = mkdtempSync(join(tmpdir(), 'conduit-log-'))))
afterEach(() => rmSync(folder, { recursive: true, force: true }))

it('a log is kept in two files at most, the newest lines in it', async () => {
  const path = join(folder, 'engine.log')
  const log = rotatingLog(path, { largest: 1000 })
  for (let i = 0; i < 100; i++) log.write(Buffer.from(`line ${i} ${'.'.repeat(40)}\n`))
  log.end()
  await until(() => existsSync(path) && readFileSync(path, 'utf8').includes('line 99'))
  expect(statSync(path).size + statSync(`${path}.1`).size).toBeLessThan(2300)
  expect(existsSync(`${path}.2`)).toBe(false)
})

it('a disk that is full ends nobody, and what comes once there is room is written', async () => {
  const path = join(folder, 'engine.log')
  symlinkSync('/dev/full', path)
  const log = rotatingLog(path, { againMs: 200 })
  const thrown: unknown[] = []
  const note = (error: unknown) => thrown.push(error)
  process.on('uncaughtException', note)
  for (let i = 0; i < 5; i++) {
    log.write(Buffer.from(`lost ${i}\n`))
    await new Promise((resolve) => setTimeout(resolve, 20))
  }
  unlinkSync(path)
  await until(() => {
    log.write(Buffer.from('kept\n'))
    return existsSync(path) && readFileSync(path, 'utf8').includes('kept')
  })
  process.off('uncaughtException', note)
  expect(thrown).toEqual([])
  log.end()
})
