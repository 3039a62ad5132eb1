import { spawn } from 'node:child_process'
import { join } from 'node:path'
import { project, stateFolder } from '../paths.mjs'
import { secretOf } from '../postgres.mjs'
import { prepareToRun } from '../setup.mjs'
import { runningPorts, withDatabase } from '../siteDatabase.mjs'

/** A command over the data of a site: beside the site that runs, or with its database started for as long as it takes. */
const command = (/** @type {string} */ bundle) => async () => {
  prepareToRun()
  const args = process.argv.slice(3)
  const folder = stateFolder(args.includes('--demo') ? 'demo' : 'site')
  const common = { ...process.env, NODE_ENV: 'production', CONDUIT_STATE: folder, CONDUIT_SEAL_KEY: secretOf(folder, 'seal') }
  const running = runningPorts(folder)
  const engine = running ? { CONDUIT_RPC_PORT: String(running.rpc), CONDUIT_RPC_SECRET: secretOf(folder, 'rpc') } : {}
  return withDatabase(folder, (url) => run(bundle, args, { ...common, ...engine, CONDUIT_DATABASE: url }))
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
