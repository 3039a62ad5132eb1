import { spawn } from 'node:child_process'
import { chmodSync, mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import type { TestProject } from 'vitest/node'
import { freePort } from '../../launcher/ports.mjs'
import { preparePostgres, waitForPort } from '../../launcher/postgres.mjs'

declare module 'vitest' {
  interface ProvidedContext {
    clusterUrl: string
  }
}

/** A PostgreSQL server of the tests' own, on a free port, gone afterwards. */
export default async (project: TestProject) => {
  const folder = mkdtempSync(join(tmpdir(), 'conduit-cluster-'))
  const port = await freePort()
  // as root the server runs as another account, which must reach the folder
  chmodSync(folder, 0o755)
  const { url, spec } = preparePostgres(folder, port)
  const server = spawn(spec.command, [...spec.args, '-c', 'fsync=off'], { stdio: 'ignore', uid: spec.uid, gid: spec.gid })
  await waitForPort(port)
  project.provide('clusterUrl', url)
  return async () => {
    const ended = new Promise((resolve) => server.once('exit', resolve))
    server.kill('SIGINT')
    await ended
    rmSync(folder, { recursive: true, force: true })
  }
}
