import { existsSync, mkdirSync, readdirSync, readFileSync, renameSync, rmSync, statfsSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { project } from './paths.mjs'
import { ask, runProgram } from './siteDatabase.mjs'

/** A new version brings the database to a new form. What was before is kept, so that there is a way back. */

const { version } = JSON.parse(readFileSync(join(project, 'package.json'), 'utf8'))

/** So many states of before are kept. */
const mostKept = 3
/** A larger database is kept without what was recorded: it would take longer than anybody waits for a start. */
const largestWhole = 5e9
/** A dump is compressed; this is what it takes at most, and what has to stay free beside it. */
const [shareOfDump, stayFree] = [0.6, 1e9]
/** What was recorded, part by part; the tables themselves are kept. */
const recorded = ['history_sample_*', 'history_second_*', 'history_minute_*', 'history_hour_*']

/**
 * @typedef {object} Before
 * @property {string} at when it was kept, ISO 8601
 * @property {number} revision
 * @property {string[]} steps that the database had taken
 * @property {string} made by which version the next steps were taken
 * @property {string[]} leftOut
 */

/** The steps that this version knows. @returns {string[]} */
const known = () =>
  readdirSync(join(project, 'db', 'migrations'))
    .map((name) => name.replace(/\.ts$/, ''))
    .sort()

const preparedFile = (/** @type {string} */ folder) => join(folder, 'prepared.json')

/** The database has taken all steps that this version knows. @param {string} folder */
export const notePrepared = (folder) => writeFileSync(preparedFile(folder), JSON.stringify(known()))

/** Whether that is so as far as is known without asking it. @param {string} folder */
export const wasPrepared = (folder) =>
  existsSync(preparedFile(folder)) && readFileSync(preparedFile(folder), 'utf8') === JSON.stringify(known())

/** The steps that a database has taken. @param {string} url @returns {string[]} */
const stepsOf = (url) => {
  const isThere = ask(url, "select to_regclass('public.kysely_migration') is not null") === 't'
  return isThere ? ask(url, 'select name from kysely_migration order by name').split('\n').filter(Boolean) : []
}

/**
 * Where this version is about to take steps with a database that holds a site, it is kept before. One that took steps which this version
 * does not know is left alone.
 * @param {string} folder @param {string} url @param {(text: string) => void} say
 */
export const keepBefore = async (folder, url, say) => {
  const steps = stepsOf(url)
  const newer = steps.filter((step) => !known().includes(step))
  if (newer.length > 0) throw new Error(newerText(folder, newer))
  if (steps.length === 0 || known().every((step) => steps.includes(step))) return
  const revision = Number(ask(url, 'select revision from site'))
  const { name, leftOut } = await keep(folder, url, { revision, steps })
  say(
    `The database is brought to the form of version ${version}. How it was before is kept in ${join('before', name)}; ./conduit back goes back to it.`,
  )
  if (leftOut.length > 0) say(`Not kept with it, for it is large: ${leftOut.join(', ')}. A whole backup is made by ./conduit backup.`)
}

/** @param {string} folder @param {string[]} newer */
const newerText = (folder, newer) => {
  const back = goodBefores(folder)[0]
  const way = back
    ? `./conduit back goes back to how it was on ${back.facts.at.slice(0, 16).replace('T', ' ')} UTC (revision ${back.facts.revision}); what was changed and recorded since is put aside.`
    : 'There is no state of before here that this version could go back to.'
  return `The database was brought to the form of a newer version (${newer.at(-1)}), which version ${version} does not know. Start the newer version again. ${way}`
}

/** @param {string} folder @param {string} url @param {{ revision: number, steps: string[] }} facts */
const keep = async (folder, url, facts) => {
  const bytes = Number(ask(url, 'select pg_database_size(current_database())'))
  const disk = statfsSync(folder)
  const isWhole = bytes < largestWhole && bytes * shareOfDump + stayFree < disk.bavail * disk.bsize
  const name = new Date().toISOString().replace(/[:.]/g, '-')
  const place = join(folder, 'before', name)
  mkdirSync(place, { recursive: true, mode: 0o700 })
  const without = isWhole ? [] : recorded.map((pattern) => `--exclude-table-data=${pattern}`)
  await runProgram('pg_dump', ['-d', url, '-Fc', ...without, '-f', join(place, 'database.dump.new')])
  renameSync(join(place, 'database.dump.new'), join(place, 'database.dump'))
  /** @type {Before} */
  const before = { at: new Date().toISOString(), ...facts, made: version, leftOut: isWhole ? [] : ['what was recorded'] }
  writeFileSync(join(place, 'before.json'), JSON.stringify(before, null, 2))
  for (const old of befores(folder).slice(mostKept)) rmSync(join(folder, 'before', old.name), { recursive: true })
  return { name, leftOut: before.leftOut }
}

/** States of before, the newest first. @param {string} folder @returns {{ name: string, facts: Before }[]} */
const befores = (folder) => {
  const place = join(folder, 'before')
  if (!existsSync(place)) return []
  return readdirSync(place)
    .sort()
    .reverse()
    .flatMap((name) => {
      const file = join(place, name, 'before.json')
      return existsSync(file) && existsSync(join(place, name, 'database.dump'))
        ? [{ name, facts: JSON.parse(readFileSync(file, 'utf8')) }]
        : []
    })
}

/** Those that this version can go on with. @param {string} folder */
const goodBefores = (folder) => befores(folder).filter(({ facts }) => facts.steps.every((step) => known().includes(step)))

/**
 * Goes back to the newest state of before that this version can go on with. What is there now is kept as well.
 * @param {string} folder @param {string} url @param {boolean} withoutRecord whether what was recorded may go where it was not kept
 * @returns {Promise<{ facts: Before, aside: string }>}
 */
export const goBack = async (folder, url, withoutRecord) => {
  const [back] = goodBefores(folder)
  if (!back) throw new Error('There is no state of before here: no version brought this database to a new form, or that was long ago.')
  if (back.facts.leftOut.length > 0 && !withoutRecord)
    throw new Error(
      `With that state this was not kept: ${back.facts.leftOut.join(', ')}. With --without-record it is gone to here; a backup may have it.`,
    )
  const others = Number(ask(url, 'select count(*) from pg_stat_activity where datname = current_database() and pid <> pg_backend_pid()'))
  if (others > 0) throw new Error(`${others} others are connected to the database: stop all machines of the site first.`)
  const { name: aside } = await keep(folder, url, { revision: Number(ask(url, 'select revision from site')), steps: stepsOf(url) })
  const schemas = ask(url, "select nspname from pg_namespace where nspname !~ '^pg_' and nspname <> 'information_schema'")
    .split('\n')
    .filter(Boolean)
  for (const schema of schemas) ask(url, `drop schema "${schema.replaceAll('"', '""')}" cascade`)
  ask(url, 'create schema public')
  await runProgram('pg_restore', [
    '-d',
    url,
    '--no-owner',
    '--exit-on-error',
    '--clean',
    '--if-exists',
    join(folder, 'before', back.name, 'database.dump'),
  ])
  // it is of the newer state, and would hold this one for another database
  const kept = join(folder, 'last-configuration.jsonl')
  if (existsSync(kept)) renameSync(kept, join(folder, 'before', aside, 'last-configuration.jsonl'))
  return { facts: back.facts, aside }
}
