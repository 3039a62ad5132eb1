import { Refusal } from '../answers/refusalError'
import { migrate } from '#db/migrate'
import { closeDatabase, database } from '../store/database'

/** Said to whoever gave the command; nothing else is to be seen of it. */
export class Wrong extends Error {}

/** What went wrong ends with it: a word to whoever gave the command, and 2. */
const wrongExit = 2

/** Runs a command of the command line to its end: its number is how the process ends. */
export const runCommand = async (usage: string, work: () => Promise<number>) => {
  try {
    // a site that runs has the newest tables; one that does not may never have had any
    if (process.env.CONDUIT_SITE_RESTS) await migrate(database())
    process.exitCode = await work()
  } catch (error) {
    process.exitCode = wrongExit
    console.error(textOf(error, usage))
  } finally {
    await closeDatabase()
  }
}

const textOf = (error: unknown, usage: string): string => {
  if (error instanceof Wrong) return error.message
  if (error instanceof Refusal) {
    const fields = error.fields.map(({ path, message }) => `  ${path}: ${message}`)
    return [error.why.what, ...fields, error.why.evidence, error.why.next].filter(Boolean).join('\n')
  }
  if (error instanceof Error && 'code' in error) {
    if (String(error.code).startsWith('ERR_PARSE_ARGS')) return `${error.message}\n\n${usage}`
    return `${error.message}\nNothing was changed.`
  }
  return error instanceof Error ? (error.stack ?? error.message) : String(error)
}
