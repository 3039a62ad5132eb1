import { spawn, spawnSync } from 'node:child_process'
import { existsSync, mkdirSync, readFileSync } from 'node:fs'
import { join } from 'node:path'
import { Child } from './child.mjs'
import { freePort } from './ports.mjs'
import { databaseUrl, elsewhereDatabase, preparePostgres, serverPrograms, waitForPort } from './postgres.mjs'
import { isLauncher } from './launchers.mjs'

/** @param {string} folder @returns {{ database: number, rpc: number } | null} where a site that runs is to be found */
export const runningPorts = (folder) => {
  const file = join(folder, 'run.json')
  if (!existsSync(file)) return null
  const { pid, ports } = JSON.parse(readFileSync(file, 'utf8'))
  return isLauncher(pid) ? ports : null
}

/** With the database of a site: of one that runs, or started for as long as it takes. @template T @param {string} folder @param {(url: string) => Promise<T>} work @returns {Promise<T>} */
export const withDatabase = async (folder, work) => {
  const running = runningPorts(folder)
  if (running) return work(databaseUrl(folder, running.database))
  const elsewhere = elsewhereDatabase(folder)
  if (elsewhere) return work(elsewhere)
  const port = await freePort()
  const { url, spec } = preparePostgres(folder, port)
  mkdirSync(join(folder, 'log'), { recursive: true })
  const child = new Child(spec, join(folder, 'log'), () => {})
  child.start()
  try {
    await waitForPort(port)
    await untilItWorks(url)
    return await work(url)
  } finally {
    await child.stop()
  }
}

/** Whether there is a site in a state folder: with a database of its own, or one elsewhere. @param {string} folder @returns {boolean} */
export const hasSite = (folder) => existsSync(join(folder, 'database', 'PG_VERSION')) || elsewhereDatabase(folder) !== null

/** One of the programs of the database’s package; its words where it fails. @param {string} name @param {string[]} args @returns {Promise<void>} */
export const runProgram = (name, args) =>
  new Promise((resolve, reject) => {
    const child = spawn(join(serverPrograms() ?? '', name), args, { stdio: ['ignore', 'ignore', 'pipe'] })
    let words = ''
    child.stderr.on('data', (part) => (words = (words + part).slice(-4000)))
    child.once('error', reject)
    child.once('exit', (code) => (code === 0 ? resolve() : reject(new Error(`${name}: ${words.trim() || `ended with ${code}`}`))))
  })

/** @param {string} url @param {string} query @returns {string} */
export const ask = (url, query) => {
  const { status, stdout, stderr } = spawnSync(join(serverPrograms() ?? '', 'psql'), [url, '-At', '-c', query], { encoding: 'utf8' })
  if (status !== 0) throw new Error(`The database could not be asked: ${stderr.trim()}`)
  return stdout.trim()
}

/** Whether a database answers within some seconds. @param {string} url @returns {boolean} */
export const isReachable = (url) =>
  spawnSync(join(serverPrograms() ?? '', 'psql'), [url, '-At', '-c', 'select 1'], { env: { ...process.env, PGCONNECT_TIMEOUT: '5' } })
    .status === 0

/** It takes connections before it is done with what it was in the middle of when it ended. @param {string} url */
export const untilItWorks = async (url) => {
  for (let tries = 0; ; tries++) {
    try {
      return ask(url, 'select 1')
    } catch (error) {
      if (tries >= mostTries) throw error
      await new Promise((resolve) => setTimeout(resolve, 250))
    }
  }
}
const mostTries = 240
