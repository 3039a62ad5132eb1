import { z } from 'zod'
import { lineField } from '#core/contracts/fields'
import { longestName, mostNames } from '#core/tags/valueNames'

const valueNamed = z.object({
  value: z.number({ error: 'What is named is a number.' }).describe('The tag’s value; of a truth value, 0 is false and 1 is true.'),
  name: lineField('A name', longestName)
    .min(1, 'A name has at least one character.')
    .refine((name) => !name.includes(';'), 'A name has no semicolon: it ends a name where they are written in one line.'),
})

export const valueNames = z
  .array(valueNamed)
  .max(mostNames, `At most ${mostNames} values have names.`)
  .superRefine((names, context) => {
    const seen = new Set<number>()
    for (const [index, { value }] of names.entries()) {
      if (seen.has(value)) context.addIssue({ code: 'custom', path: [index, 'value'], message: `${value} has two names.` })
      seen.add(value)
    }
  })
  .meta({ id: 'ValueNames', description: 'What single values are called, such as the states of a machine.' })
