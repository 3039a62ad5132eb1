import { fork, type ChildProcess } from 'node:child_process'
import { once } from 'node:events'
import { join } from 'node:path'

/** Starts a script beside this one and waits for its first message. */
export const startChild = async <T>(
  script: string,
  env: NodeJS.ProcessEnv = {},
  execArgv: string[] = [],
): Promise<{ child: ChildProcess; first: T }> => {
  const child = fork(join(import.meta.dirname, script), [], { env: { ...process.env, ...env }, execArgv: ['--import', 'tsx', ...execArgv] })
  const [first] = (await once(child, 'message')) as [T]
  return { child, first }
}

export const startDevice = (turnaround: number) => startChild<number>('device.ts', { CONDUIT_BENCH_TURNAROUND: String(turnaround) })
