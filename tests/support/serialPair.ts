import { spawn } from 'node:child_process'
import { existsSync, mkdtempSync, realpathSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { SerialPort } from 'serialport'
import type { Closing } from './engineOn'
import { until } from './until'

/** Two serial ports of this machine with a line between them. */
export const serialPair = async (closing: Closing) => {
  const folder = mkdtempSync(join(tmpdir(), 'conduit-line-'))
  const [near, far] = [join(folder, 'near'), join(folder, 'far')]
  const line = spawn('socat', [`pty,raw,echo=0,link=${near}`, `pty,raw,echo=0,link=${far}`], { stdio: 'ignore' })
  const pull = () => line.kill('SIGKILL')
  closing.push(async () => {
    pull()
    rmSync(folder, { recursive: true, force: true })
  })
  await until(() => existsSync(near) && existsSync(far))
  return { near: realpathSync(near), far: realpathSync(far), pull }
}

export const openPort = async (closing: Closing, path: string): Promise<SerialPort> => {
  const port = new SerialPort({ path, baudRate: 115_200, autoOpen: false })
  port.on('error', () => {})
  await new Promise<void>((resolve, reject) => port.open((error) => (error ? reject(error) : resolve())))
  closing.unshift(() => new Promise<void>((resolve) => (port.isOpen ? port.close(() => resolve()) : resolve())))
  return port
}
