import { z } from 'zod'
import { lineField } from '../contracts/fields'

/** What is wrong with the way to a folder or file below a root; null: nothing. */
export const wayProblem = (way: string): string | null => {
  if (way.includes('\0')) return 'A path holds no NUL.'
  if (way.startsWith('/') || way.includes('\\') || /^[a-z]:/i.test(way))
    return 'The path begins below the allowed folder, without “/” in front.'
  if (way.split('/').some((part) => part === '..' || part === '.')) return 'A path goes down only: no “..” and no “.”.'
  if (way.split('/').some((part) => part === '' && way !== '')) return 'A folder between two “/” has no name.'
  if (way.split('/').some((part) => new TextEncoder().encode(part).length > 200)) return 'A name in it is longer than 200 bytes.'
  return null
}

const folderField = lineField('A folder', 200).superRefine((way, context) => {
  const problem = wayProblem(way)
  if (problem) context.addIssue({ code: 'custom', message: problem })
})

/** What a link to files is set to: a folder below one of the roots that were allowed on the engine's machine. */
export const filesSettings = z.object({
  root: lineField('A root', 400).default('').describe('One of the allowed folders of the engine’s machine; empty: the first.'),
  folder: folderField.default('').describe('Below the root, as in meters/daily; empty: the root itself.'),
})
export type FilesSettings = z.output<typeof filesSettings>

/** Nothing: files have no points. */
export const filesPoint = z.object({})
