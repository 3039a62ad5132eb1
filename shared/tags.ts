import { z } from 'zod'
import { protocolOf, type LinkKind } from '#core/links/registry'
import { pathProblem } from '#core/tags/path'
import { dataTypes } from '#core/tags/types'
import { idField, lineField, milliseconds, mostInteger } from './fields'
import { linkContracts } from './links/registry'

const scaling = z.object({
  gain: z.number({ error: 'A gain is a number.' }).refine((gain) => gain !== 0, 'A gain of 0 would make every value the same.'),
  offset: z.number({ error: 'An offset is a number.' }),
})

/** Where values lie in normal operation, in the tag's unit. */
const range = z
  .object({ low: z.number({ error: 'The low end is a number.' }), high: z.number({ error: 'The high end is a number.' }) })
  .refine(({ low, high }) => low < high, { message: 'The high end lies above the low end.', path: ['high'] })

/** What a person enters to make or change a tag. */
export const tagDraft = z.object({
  path: z
    .string({ error: 'A tag needs a path.' })
    .trim()
    .superRefine((path, context) => {
      const problem = pathProblem(path)
      if (problem) context.addIssue({ code: 'custom', message: problem })
    }),
  linkId: z
    .int({ error: 'Choose the link that the tag reads through.' })
    .min(1, 'Choose the link.')
    .max(mostInteger, 'There is no such link.'),
  address: lineField('An address', 500),
  type: z.enum(dataTypes),
  /** What the protocol needs besides; `tagProblems` checks it by the contract of the link's kind. */
  options: z.record(z.string(), z.unknown()).default({}),
  access: z.enum(['read', 'readwrite']).default('read'),
  interval: milliseconds('An interval', 10, 86_400_000).nullable().default(null),
  scaling: scaling.nullable().default(null),
  unit: lineField('A unit', 40).default(''),
  range: range.nullable().default(null),
  description: lineField('A description', 500).default(''),
})

export type TagDraft = z.output<typeof tagDraft>

export interface Tag extends TagDraft {
  id: number
  revision: number
}

export const tagChange = z.object({ revision: idField('A revision'), tag: tagDraft })
export const newTags = z.object({ tags: z.array(tagDraft).min(1).max(20_000, 'At most 20,000 tags at once.') })

export interface FieldMessage {
  path: string
  message: string
}

interface OfLink {
  kind: LinkKind
  settings: unknown
}

/** What only shows in the light of the link: its address, type, options, access and interval. */
export const tagProblems = (tag: TagDraft, link: OfLink): FieldMessage[] => {
  const options = linkContracts[link.kind].point.safeParse(tag.options)
  if (!options.success) return options.error.issues.map((issue) => ({ path: ['options', ...issue.path].join('.'), message: issue.message }))
  const point = { ...tag, options: options.data }
  return protocolOf(link.kind)
    .problems(point, link.settings)
    .map(({ field, message }) => ({ path: field, message }))
}

/** The draft as it is stored: its address in the canonical notation, its options without strangers. */
export const settled = (tag: TagDraft, link: OfLink): TagDraft => {
  const facts = protocolOf(link.kind).describe(tag.address, link.settings)
  const options = linkContracts[link.kind].point.parse(tag.options)
  return facts.ok ? { ...tag, address: facts.canonical, options } : tag
}
