import { execFile, fork, type ChildProcess } from 'node:child_process'
import { once } from 'node:events'
import { join } from 'node:path'
import { promisify } from 'node:util'
import { build } from 'esbuild'

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

/** Runs a script as it would be shipped: bundled, without what loads TypeScript. It prints one line of JSON. */
export const runBundled = async <T>(script: string, env: NodeJS.ProcessEnv = {}): Promise<T> => {
  const outfile = await bundled(script)
  const { stdout } = await promisify(execFile)(process.execPath, [outfile], { maxBuffer: 1024 * 1024, env: { ...process.env, ...env } })
  return JSON.parse(stdout.trim().split('\n').at(-1)!) as T
}

/** The same for one that has something to tell meanwhile. */
export const forkBundled = async (script: string, env: NodeJS.ProcessEnv): Promise<ChildProcess> =>
  fork(await bundled(script), [], { env: { ...process.env, ...env } })

const bundled = async (script: string): Promise<string> => {
  const outfile = join('.output', 'bench', script.replace(/\.ts$/, '.mjs'))
  await build({
    entryPoints: [join('tests', 'bench', script)],
    outfile,
    bundle: true,
    platform: 'node',
    format: 'esm',
    packages: 'external',
    logLevel: 'error',
  })
  return outfile
}
