import { randomBytes } from 'node:crypto'
import { spawn } from 'node:child_process'
import { chmodSync, mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import pg from 'pg'
import type { TestProject } from 'vitest/node'
import { connect } from '#db/connect'
import { migrate } from '#db/migrate'
import { freePort } from '../../launcher/ports.mjs'
import { preparePostgres, waitForPort } from '../../launcher/postgres.mjs'

declare module 'vitest' {
  interface ProvidedContext {
    clusterUrl: string
  }
}

/** A PostgreSQL server on a free port, gone afterwards. @param more further options of the server @param throwaway it need not outlive a power cut */
export const startCluster = async (more: string[] = [], throwaway = false) => {
  const folder = mkdtempSync(join(tmpdir(), 'conduit-cluster-'))
  const port = await freePort()
  // as root the server runs as another account, which must reach the folder
  chmodSync(folder, 0o755)
  const { url, spec } = preparePostgres(folder, port, throwaway)
  const begin = async () => {
    const server = spawn(spec.command, [...spec.args, ...more], { stdio: 'ignore', uid: spec.uid, gid: spec.gid })
    await waitForPort(port)
    return server
  }
  let server = await begin()
  const end = async () => {
    if (server.exitCode !== null || server.signalCode !== null) return
    const ended = new Promise((resolve) => server.once('exit', resolve))
    server.kill('SIGINT')
    await ended
  }
  const stop = async () => {
    await end()
    rmSync(folder, { recursive: true, force: true })
  }
  return { url, stop, end, again: async () => (server = await begin()) }
}

/** A database in it with all tables; or with those of an earlier version. */
export const databaseIn = async (clusterUrl: string, upTo?: string) => {
  const name = `test_${randomBytes(6).toString('hex')}`
  const client = new pg.Client({ connectionString: clusterUrl })
  await client.connect()
  await client.query(`create database ${name}`)
  await client.end()
  const url = Object.assign(new URL(clusterUrl), { pathname: `/${name}` }).toString()
  // a machine that is busy with other tests takes its time
  const db = connect(url, () => {}, 30_000)
  await migrate(db, upTo)
  return { url, db }
}

/** The cluster of a test run. */
export default async (project: TestProject) => {
  const { url, stop } = await startCluster([], true)
  project.provide('clusterUrl', url)
  return stop
}
