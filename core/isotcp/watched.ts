import { z } from 'zod'
import { lineField, wholeNumber } from '../contracts/fields'
import { wayProblem } from '../files/settings'
import { layoutRules } from './program/layOut'

const block = wholeNumber('A block', 1, 65_535)

/** A file of the program on the engine's machine that is looked into again and again. */
export const watchedProgram = z.object({
  root: lineField('A root', 400).default('').describe('One of the allowed folders of the engine’s machine; empty: the first.'),
  file: lineField('A file', 400)
    .min(1, 'Which file? Its path below the allowed folder.')
    .superRefine((way, context) => {
      const message = wayProblem(way)
      if (message) context.addIssue({ code: 'custom', message })
    })
    .describe('Its path below the root, as in programs/fc1.st.'),
  folder: lineField('A folder', 240)
    .overwrite((folder) => folder.replace(/^\/+|\/+$/g, ''))
    .default('')
    .describe('Of its tags.'),
  block: block.nullable().default(null).describe('In which variables lie that name no address; null: they are left out.'),
  blocks: z.record(z.string().max(240), block).default({}).describe('Of single groups, by their names.'),
  rule: z.enum(layoutRules).default('even'),
  missing: z.enum(['stay', 'remove']).default('stay').describe('What becomes of its tags that it does not name any more.'),
  then: z
    .enum(['tell', 'apply'])
    .default('tell')
    .describe('What is done when it says something else than the tags: told, or applied by itself.'),
})
export type WatchedProgram = z.output<typeof watchedProgram>
