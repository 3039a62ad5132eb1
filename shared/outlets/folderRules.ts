import { z } from 'zod'
import { rights } from '#core/outlets/rules'

const folderRule = z.object({
  folder: z
    .string()
    .trim()
    .max(240, 'A folder has at most 240 characters.')
    .overwrite((folder) => folder.replace(/^\/+|\/+$/g, '')),
  may: z.enum(rights),
})

/** What may be done in which folder; the closest rule holds. */
export const folderRules = z
  .array(folderRule)
  .min(1, 'At least one folder; an empty one is the whole site.')
  .max(200, 'At most 200 folders.')
  .superRefine((rules, context) => {
    for (const [i, { folder }] of rules.entries())
      if (rules.findIndex((other) => other.folder === folder) < i)
        context.addIssue({ code: 'custom', path: [i, 'folder'], message: `${folder || 'The whole site'} stands here twice.` })
  })
