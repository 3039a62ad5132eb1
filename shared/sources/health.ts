import { z } from 'zod'
import { lineField } from '#core/contracts/fields'
import { set, wordCell } from '#core/formats/cells'
import { healthFactNames, healthFactOf, healthKinds, isOfKind, isOfParts } from '#core/statistics/health'
import { isNumeric } from '#core/tags/types'
import type { SourceColumn } from './columns'
import type { SourceRules } from './source'

export const healthSource = z.object({
  kind: z.literal('health'),
  of: z.enum(healthKinds, { error: `It is of a ${healthKinds.join(', ')}.` }).default('link'),
  name: z.string().max(120, 'A name has at most 120 characters.').default('').describe('How the link, outlet or bridge is called.'),
  part: lineField('A part', 240).default('').describe('One of its units, clients or receivers; empty: the whole.'),
  fact: z.enum(healthFactNames, { error: 'That is nothing that is known of its health.' }).default('flows'),
})
export type HealthSource = z.output<typeof healthSource>

const word = (name: 'name' | 'part', about: string): SourceColumn<HealthSource> => ({
  name: `health_${name}`,
  about,
  field: name,
  show: (source) => source[name] || null,
  put: (source, cell) => {
    source[name] = cell
    return null
  },
})

const columns: readonly SourceColumn<HealthSource>[] = [
  {
    name: 'health',
    about: `What of the health of something a tag shows: ${healthFactNames.join(', ')}.`,
    field: 'fact',
    show: ({ fact }) => fact,
    put: (source, cell) => set(wordCell(cell, healthFactNames, 'fact'), (fact) => (source.fact = fact)),
  },
  {
    name: 'health_of',
    about: `Of what: ${healthKinds.join(', ')}.`,
    field: 'of',
    show: ({ of }) => of,
    put: (source, cell) => set(wordCell(cell, healthKinds, 'kind'), (of) => (source.of = of)),
  },
  word('name', 'How the link, outlet or bridge is called.'),
  word('part', 'One of its units, clients or receivers. Empty: the whole.'),
]

/** How a link, outlet or bridge is, and how it is asked and answers: for outlets, bridges and history like any tag. */
export const health: SourceRules<HealthSource> = {
  contract: healthSource,
  title: 'Health',
  subtitle: 'how a link, outlet or bridge is: state, requests, answer times …',
  isScaled: false,
  isDamped: true,
  columns,
  blank: () => healthSource.parse({ kind: 'health' }),
  usualType: ({ fact }) => healthFactOf(fact).type,
  problems: ({ type, access, source }) => {
    const { of, name, part, fact } = source
    const meant = healthFactOf(fact).type
    const fits = type === meant || type === 'string' || (isNumeric(type) && meant !== 'string')
    const not = (holds: boolean, path: string, message: string) => (holds ? [] : [{ path, message }])
    return [
      ...not(name.trim() !== '', 'source.name', `Of which ${of}?`),
      ...not(isOfKind(fact, of), 'source.fact', `No ${of} has that.`),
      ...not(part === '' || isOfParts(fact), 'source.part', 'That is known of the whole only.'),
      ...not(fits, 'type', `That is ${meant === 'string' ? 'a text' : meant === 'bool' ? 'true or false' : 'a number'}.`),
      ...not(access === 'read', 'access', 'Health is not written.'),
    ]
  },
  settled: (tag) => ({ ...tag, source: { ...tag.source, name: tag.source.name.trim(), part: tag.source.part.trim() } }),
  isSame: (a, b) => JSON.stringify(a) === JSON.stringify(b),
}
