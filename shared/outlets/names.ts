import { z } from 'zod'
import { shortNamesOf, withFolders, type ShortNames } from '#core/tags/shortNames'
import type { OpcuaServerSettings } from './opcuaServer'

/**
 * The short names of an outlet. All tags of the site take part, also those that it does not show: what
 * is shown may change, and names shall not.
 */
export const namesOf = (tags: Iterable<{ id: number; path: string }>, { most, own }: OpcuaServerSettings['shortNames']): ShortNames => {
  const chosen = new Map(own.map(({ path, name }) => [path, name]))
  const all = [...tags].map(({ id, path }) => ({ id, path, own: chosen.get(path) ?? null }))
  return shortNamesOf(withFolders(all, chosen), most)
}

/** A name as a page or a file lists it. */
export const listedName = z
  .object({
    path: z.string(),
    name: z.string(),
    kind: z.enum(['tag', 'folder']),
    how: z.enum(['own', 'made', 'shortened', 'made unique']),
    problem: z.string().nullable().describe('Why the name that was chosen here cannot be had.'),
  })
  .meta({ id: 'ListedName' })
export type ListedName = z.output<typeof listedName>

export interface ListedNames {
  names: ListedName[]
  /** Own names of what is not there any more. */
  left: { path: string; name: string }[]
}
