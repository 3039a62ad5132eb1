import { spawn } from 'node:child_process'
import { existsSync, mkdirSync, readFileSync } from 'node:fs'
import { join } from 'node:path'
import { Child } from '../child.mjs'
import { project, stateFolder } from '../paths.mjs'
import { freePort } from '../ports.mjs'
import { databaseUrl, preparePostgres, secretOf, waitForPort } from '../postgres.mjs'
import { prepareToRun } from '../setup.mjs'
import { isLauncher } from '../stack.mjs'

/** A command over the data of a site: beside the site that runs, or with its database started for as long as it takes. */
const command = (/** @type {string} */ bundle) => async () => {
  prepareToRun()
  const args = process.argv.slice(3)
  const folder = stateFolder(args.includes('--demo') ? 'demo' : 'site')
  const common = { ...process.env, NODE_ENV: 'production', CONDUIT_STATE: folder, CONDUIT_SEAL_KEY: secretOf(folder, 'seal') }
  const running = runningPorts(folder)
  if (!running) return withDatabase(folder, (url) => run(bundle, args, { ...common, CONDUIT_DATABASE: url }))
  const engine = { CONDUIT_RPC_PORT: String(running.rpc), CONDUIT_RPC_SECRET: secretOf(folder, 'rpc') }
  return run(bundle, args, { ...common, ...engine, CONDUIT_DATABASE: databaseUrl(folder, running.database) })
}

export const site = command('site.mjs')
export const tags = command('tags.mjs')

/** @param {string} bundle @param {string[]} args @param {NodeJS.ProcessEnv} env @returns {Promise<number>} */
const run = (bundle, args, env) =>
  new Promise((resolve, reject) => {
    // who interrupts it means the command, which tells by its end
    process.on('SIGINT', () => {})
    const child = spawn(process.execPath, [join(project, '.output', 'bundles', bundle), ...args], { env, stdio: 'inherit' })
    child.once('error', reject)
    child.once('exit', (code) => resolve(code ?? 130))
  })

/** @param {string} folder @param {(url: string) => Promise<number>} work */
const withDatabase = async (folder, work) => {
  const port = await freePort()
  const { url, spec } = preparePostgres(folder, port)
  mkdirSync(join(folder, 'log'), { recursive: true })
  const child = new Child(spec, join(folder, 'log'), () => {})
  child.start()
  try {
    await waitForPort(port)
    return await work(url)
  } finally {
    await child.stop()
  }
}

/** @param {string} folder @returns {{ database: number, rpc: number } | null} where a site that runs is to be found */
const runningPorts = (folder) => {
  const file = join(folder, 'run.json')
  if (!existsSync(file)) return null
  const { pid, ports } = JSON.parse(readFileSync(file, 'utf8'))
  return isLauncher(pid) ? ports : null
}
