import {
  chmodSync,
  cpSync,
  existsSync,
  mkdirSync,
  mkdtempSync,
  readdirSync,
  readFileSync,
  renameSync,
  rmSync,
  statSync,
  writeFileSync,
} from 'node:fs'
import { dirname, join, resolve } from 'node:path'
import { forget, pack, unpack } from '../backup/archive.mjs'
import { ask, hasSite, runningPorts, runProgram, withDatabase } from '../siteDatabase.mjs'
import { openedBy, passphrase, sealedBy } from '../backup/sealed.mjs'
import { project, stateFolder } from '../paths.mjs'
import { prepareToRun, say } from '../setup.mjs'
import { refuseSecond } from '../stack.mjs'

/** What lies beside the database, and may be copied while it is written to: lines that are added. */
const always = ['certificate', 'authority', 'memory-values.jsonl', 'path-checks.json', 'ports.json']
/** What only a site that stands still has whole. */
const atRest = {
  spool: 'what bridges keep',
  history: 'what waits to be recorded',
  alarms: 'what is open of alarms',
  outlets: 'what outlets keep',
}

const { version } = JSON.parse(readFileSync(join(project, 'package.json'), 'utf8'))

/** The whole site as one file, while it runs or stands. */
export const backup = async () => {
  const series = seriesGiven()
  const single = series ? null : fileGiven('backup')
  const phrase = passphrase()
  prepareToRun()
  const folder = stateFolder('site')
  if (!hasSite(folder)) throw new Error('There is no site here yet.')
  if (series) mkdirSync(series.into, { recursive: true, mode: 0o700 })
  const file = single ?? join(/** @type {{ into: string }} */ (series).into, nameNow())
  if (existsSync(file)) throw new Error(`${file} is there already.`)
  const work = mkdtempSync(join(dirname(file), '.backup-'))
  chmodSync(work, 0o700)
  try {
    const runs = runningPorts(folder) !== null
    const facts = await withDatabase(folder, async (url) => {
      await runProgram('pg_dump', ['-d', url, '-Fc', '-f', join(work, 'database.dump')])
      const [revision, ...name] = ask(url, 'select revision, name from site').split('|')
      return { site: name.join('|'), revision: Number(revision) }
    })
    const kept = [...always, ...(runs ? [] : Object.keys(atRest))].filter((name) => existsSync(join(folder, name)))
    for (const name of kept) cpSync(join(folder, name), join(work, name), { recursive: true })
    writeFileSync(join(work, 'keys.sealed'), sealedBy(readFileSync(join(folder, 'secrets.json'), 'utf8'), phrase))
    const leftOut = runs ? Object.entries(atRest).flatMap(([name, what]) => (existsSync(join(folder, name)) ? [what] : [])) : []
    await pack(work, file, { version, made: new Date().toISOString(), ...facts, leftOut })
    chmodSync(file, 0o600)
    // upkeep says when it is long ago
    writeFileSync(
      join(folder, 'last-backup.json'),
      JSON.stringify({ at: Date.now(), file, bytes: statSync(file).size, revision: facts.revision }),
    )
    say(`“${facts.site}”, revision ${facts.revision}, is in ${file}.`)
    if (series) dropOldest(series)
    if (leftOut.length > 0) say(`Left out, because the site runs: ${leftOut.join(', ')}.`)
  } finally {
    forget(work)
  }
  return 0
}

/**
 * A series of backups in a folder of its own, of which the last ones are kept.
 * @returns {{ into: string, keep: number } | null} null: one file is named
 */
const seriesGiven = () => {
  const into = optionOf('--into')
  if (into === null) return null
  const keep = Number(optionOf('--keep') ?? usualKept)
  if (!Number.isInteger(keep) || keep < 1) throw new Error('--keep is how many of the last backups stay: a whole number from 1.')
  return { into: resolve(into), keep }
}
const usualKept = 14

/** @param {string} name @returns {string | null} */
const optionOf = (name) => {
  const at = process.argv.indexOf(name)
  if (at < 0) return null
  const value = process.argv[at + 1]
  if (!value || value.startsWith('--')) throw new Error(`What follows ${name}?`)
  return value
}

const nameNow = () => `conduit-${new Date().toISOString().replace(/[:.]/g, '')}.tar`
const isOfSeries = (/** @type {string} */ name) => /^conduit-\d{4}-\d\d-\d\dT\d{9}Z\.tar$/.test(name)

/** @param {{ into: string, keep: number }} series */
const dropOldest = ({ into, keep }) => {
  const all = readdirSync(into).filter(isOfSeries).sort().reverse()
  for (const old of all.slice(keep)) rmSync(join(into, old))
  say(`${Math.min(keep, all.length)} of ${keep} backups are in ${into}.`)
}

/** Makes the site of a backup here; what was here before is put aside. */
export const restore = async () => {
  const file = fileGiven('restore')
  const phrase = passphrase()
  const folder = stateFolder('site')
  refuseSecond(folder)
  const isThere = hasSite(folder)
  if (isThere && !process.argv.includes('--replace'))
    throw new Error(`There is a site here already. With --replace it is put aside, and that of the backup takes its place.`)
  prepareToRun()
  const work = mkdtempSync(join(dirname(folder), '.restore-'))
  chmodSync(work, 0o700)
  try {
    const manifest = await unpack(file, work)
    if (isNewer(manifest.version))
      throw new Error(`The backup was made by version ${manifest.version}, and this is ${version}: bring this copy to that version first.`)
    const secrets = openedBy(readFileSync(join(work, 'keys.sealed'), 'utf8'), phrase)
    const aside = await inPlaceOf(folder, isThere, () => build(folder, work, secrets))
    say(`“${manifest.site}”, revision ${manifest.revision}, of ${manifest.made} is here; ./conduit start starts it.`)
    if (manifest.leftOut.length > 0) say(`Not in that backup: ${manifest.leftOut.join(', ')}.`)
    if (aside) say(`What was here before is in ${aside}.`)
  } finally {
    forget(work)
  }
  return 0
}

/** @param {string} folder @param {string} work @param {string} secrets */
const build = async (folder, work, secrets) => {
  // it comes back with a database of its own, wherever it was: that one may be in use
  const { databaseUrl: _elsewhere, ...kept } = JSON.parse(secrets)
  writeFileSync(join(folder, 'secrets.json'), JSON.stringify(kept, null, 2), { mode: 0o600 })
  for (const name of [...always, ...Object.keys(atRest)])
    if (existsSync(join(work, name))) cpSync(join(work, name), join(folder, name), { recursive: true })
  await withDatabase(folder, (url) => runProgram('pg_restore', ['-d', url, '--no-owner', '--exit-on-error', join(work, 'database.dump')]))
}

/** All of it or nothing: where it comes to nothing, what was there before is there again. @param {string} folder @param {boolean} isThere @param {() => Promise<void>} make @returns {Promise<string | null>} */
const inPlaceOf = async (folder, isThere, make) => {
  const aside = `${folder}.before-${new Date().toISOString().replace(/[:.]/g, '-')}`
  renameSync(folder, aside)
  mkdirSync(folder, { mode: 0o755 })
  try {
    await make()
  } catch (error) {
    forget(folder)
    renameSync(aside, folder)
    throw error
  }
  if (isThere) return aside
  forget(aside)
  return null
}

/** @param {string} theirs */
const isNewer = (theirs) => {
  const parts = (/** @type {string} */ text) => text.split('.').map(Number)
  const [a, b] = [parts(theirs), parts(version)]
  const at = [0, 1, 2].find((i) => (a[i] ?? 0) !== (b[i] ?? 0))
  return at !== undefined && (a[at] ?? 0) > (b[at] ?? 0)
}

/** @param {string} name */
const fileGiven = (name) => {
  const file = process.argv[3]
  if (!file || file.startsWith('--'))
    throw new Error(
      `./conduit ${name} FILE [--passphrase-file FILE]${name === 'backup' ? ', or ./conduit backup --into FOLDER [--keep 14] …' : ''}`,
    )
  return resolve(file)
}
