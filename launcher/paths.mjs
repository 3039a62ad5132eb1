import { createHash } from 'node:crypto'
import { mkdirSync, statSync } from 'node:fs'
import { dirname, join, resolve } from 'node:path'
import { fileURLToPath } from 'node:url'

/** The project's folder. */
export const project = resolve(dirname(fileURLToPath(import.meta.url)), '..')

/**
 * Where a profile (`demo`, `site`) keeps its database, logs and secrets. As root the database runs
 * as the account `postgres`, which must be able to reach its folder; where the project lies in a
 * closed home folder, the state moves to /var/lib.
 * @param {string} profile
 */
export const stateFolder = (profile) => {
  const folder = join(process.env.CONDUIT_STATE ?? defaultRoot(), profile)
  mkdirSync(folder, { recursive: true, mode: 0o755 })
  return folder
}

const defaultRoot = () => {
  const beside = join(project, '.state')
  if (process.getuid?.() !== 0 || isOpenToOthers(project)) return beside
  return join('/var/lib/keen-conduit', createHash('sha256').update(project).digest('hex').slice(0, 8))
}

/** @param {string} folder @returns {boolean} */
const isOpenToOthers = (folder) => (statSync(folder).mode & 0o001) !== 0 && (folder === '/' || isOpenToOthers(dirname(folder)))
