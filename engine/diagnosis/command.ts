import { execFile } from 'node:child_process'

export type Ran = { ok: true; out: string; ms: number } | { ok: false; why: 'missing' | 'late' | 'failed'; out: string; ms: number }

const mostOut = 8 * 1024 * 1024

/** Where the system has its programs: ours may bring others of the same name. */
const path = '/usr/sbin:/sbin:/usr/bin:/bin:/usr/local/bin'

/** Runs a program of the system, without a shell, for so long at most. Never rejects. */
export const run = (program: string, args: readonly string[], ms: number, signal?: AbortSignal): Promise<Ran> =>
  new Promise((resolve) => {
    const began = performance.now()
    const options = { timeout: ms, killSignal: 'SIGKILL', maxBuffer: mostOut, env: { PATH: path, LC_ALL: 'C' } } as const
    execFile(program, [...args], { ...options, ...(signal ? { signal } : {}) }, (error, stdout, stderr) => {
      const took = performance.now() - began
      if (!error) return resolve({ ok: true, out: stdout, ms: took })
      const { code, killed } = error as { code?: string | number; killed?: boolean }
      const why = code === 'ENOENT' ? 'missing' : killed || code === 'ABORT_ERR' ? 'late' : 'failed'
      resolve({ ok: false, why, out: `${stdout}\n${stderr}`.trim(), ms: took })
    })
  })
