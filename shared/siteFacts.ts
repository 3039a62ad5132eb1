import { z } from 'zod'
import { keepingContract } from '#core/history/settings'
import { journalKeeping } from '#core/journal/settings'
import { nodeDoor } from './nodes'

/** What is said of the site as a whole. */

const rootField = z
  .string({ error: 'A folder is text.' })
  .trim()
  .max(400, 'At most 400 characters.')
  .refine((folder) => /^(\/|[a-z]:[\\/])/i.test(folder) && !folder.includes('\0'), {
    error: 'A folder is named from the root of the file system, as in /srv/exchange.',
  })

/** What a site is called before anybody gave it a name. */
export const unnamedSite = 'New site'

export const fileRootsField = z
  .array(rootField)
  .max(50, 'At most 50 folders.')
  .refine((all) => new Set(all).size === all.length, { error: 'A folder stands there twice.' })

export const siteFacts = z.object({
  name: z.string(),
  fileRoots: fileRootsField.catch([]),
  zone: z.string().catch(''),
  history: keepingContract.catch(keepingContract.parse({})),
  journal: journalKeeping.catch(journalKeeping.parse({})),
  nodeDoor: nodeDoor.nullable().catch(null).default(null).describe('Where nodes come in; null: nowhere.'),
  isCase: z.boolean().default(false).describe('Whether it looks at the case of another site, connected to nothing.'),
})
export type SiteFacts = z.output<typeof siteFacts>
