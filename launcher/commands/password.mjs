import { spawnSync } from 'node:child_process'
import { existsSync, readFileSync } from 'node:fs'
import { join } from 'node:path'
import { tellAccount } from '../account.mjs'
import { project, stateFolder } from '../paths.mjs'
import { databaseUrl } from '../postgres.mjs'
import { isLauncher } from '../launchers.mjs'
import { accountIn } from '../stack.mjs'

/** A new password for whoever sits at this machine and has lost theirs. */
export const password = () => {
  const folder = stateFolder('site')
  const name = process.argv[3] ?? 'admin'
  const file = join(folder, 'run.json')
  const { pid, ports } = existsSync(file) ? JSON.parse(readFileSync(file, 'utf8')) : { pid: 0, ports: {} }
  if (!isLauncher(pid)) throw new Error('It does not run; start it first with ./conduit start.')
  const { status, stdout, stderr } = spawnSync(process.execPath, [join(project, '.output', 'bundles', 'prepare.mjs')], {
    env: { ...process.env, CONDUIT_DATABASE: databaseUrl(folder, ports.database), CONDUIT_RESET_PASSWORD: name },
    encoding: 'utf8',
  })
  if (status !== 0) throw new Error(stderr)
  const account = accountIn(stdout)
  if (!account) throw new Error(`There is nobody called “${name}”.`)
  tellAccount(account)
}
