import { execFile, spawnSync } from 'node:child_process'
import { join } from 'node:path'
import { promisify } from 'node:util'

/** Whether the C library for Modbus of this Debian is there, and something to call it with. */
export const hasLibmodbus = spawnSync('python3', ['-c', "import ctypes; ctypes.CDLL('libmodbus.so.5')"], { stdio: 'ignore' }).status === 0

type Step =
  | { what: 'holding' | 'input' | 'coils' | 'discrete'; at: number; count: number }
  | { what: 'write'; at: number; values: number[] }
  | { what: 'switch'; at: number; on: boolean }
  | { what: 'mask'; at: number; and: number; or: number }

/** What the library gets for each step: values, how many were written, or why not. @param parameter the port, or the speed */
export const askedByLibmodbus = async (way: 'tcp' | 'rtu', place: string, parameter: number, steps: Step[]): Promise<unknown[]> => {
  const script = join(import.meta.dirname, 'libmodbus.py')
  const given = [way, place, String(parameter), '1', JSON.stringify(steps)]
  const { stdout } = await promisify(execFile)('python3', [script, ...given], { timeout: 20_000 })
  return JSON.parse(stdout) as unknown[]
}
