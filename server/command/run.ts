import { parseArgs, type ParseArgsConfig } from 'node:util'
import { migrate } from '#db/migrate'
import { Refusal } from '../answers/refusalError'
import { engineClient } from '../runtime/engineClient'
import { closeDatabase, database } from '../store/database'

/** Said to whoever gave the command; nothing else is to be seen of it. */
export class Wrong extends Error {}

/** What went wrong ends with it: a word to whoever gave the command, and 2. */
const wrongExit = 2

type Options = NonNullable<ParseArgsConfig['options']>
export type ValuesOf<O extends Options> = ReturnType<typeof parseArgs<{ options: O; allowPositionals: true }>>['values']
type Verb<O extends Options> = (file: string, values: ValuesOf<O>) => number | Promise<number>

/** Runs a command of the command line, `verb FILE` and options, to its end: the verb’s number is how the process ends. */
export const runCommand = async <O extends Options>(usage: string, options: O, verbs: Readonly<Record<string, Verb<O>>>) => {
  try {
    const { positionals, values } = parseArgs({ args: process.argv.slice(2), options, allowPositionals: true })
    const [name = '', file, ...others] = positionals
    const verb = Object.hasOwn(verbs, name) ? verbs[name] : undefined
    if (!verb || file === undefined || others.length > 0) throw new Wrong(usage)
    // a site that runs has the newest tables; one that does not may never have had any
    if (isRunning()) engineClient.start()
    else await migrate(database())
    process.exitCode = await verb(file, values)
  } catch (error) {
    process.exitCode = wrongExit
    console.error(textOf(error, usage))
  } finally {
    engineClient.close()
    await closeDatabase()
  }
}

/** Whether the site of the command runs beside it. */
export const isRunning = () => process.env.CONDUIT_RPC_PORT !== undefined

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
