import { jsonContent, listOf, merged, recordOf, typeOf, type Parts } from './parts'

/** What an answer may look like: as the description shows it, else made up from what it says of its form. */

const mostDepth = 8
const mostParts = 2000
const mostText = 200_000

/** An answer of an operation, as JSON; empty: the description says nothing of it. */
export const exampleOf = (responses: unknown): string => {
  const all = Object.entries(recordOf(responses))
  const [, answer] = all.find(([status]) => /^2(\d\d|XX)$/i.test(status)) ?? all.find(([status]) => status === 'default') ?? []
  const json = jsonContent(recordOf(answer).content)
  if (!json) return ''
  const text = JSON.stringify(shown(json.media) ?? sampleOf(json.media.schema, 0, { left: mostParts })) ?? ''
  return text.length > mostText ? '' : text
}

const shown = ({ example, examples }: Parts): unknown => example ?? recordOf(Object.values(recordOf(examples))[0]).value

const byFormat: Record<string, string> = {
  'date-time': '2026-01-01T00:00:00Z',
  date: '2026-01-01',
  time: '00:00:00Z',
  uuid: '00000000-0000-4000-8000-000000000000',
}

const sampleOf = (schema: unknown, depth: number, budget: { left: number }): unknown => {
  const whole = merged(schema)
  if (depth > mostDepth || budget.left-- <= 0) return null
  const known = whole.const ?? whole.example ?? whole.default ?? listOf(whole.examples)[0] ?? listOf(whole.enum)[0]
  if (known !== undefined) return known
  switch (typeOf(whole)) {
    case 'object':
      return Object.fromEntries(Object.entries(recordOf(whole.properties)).map(([name, part]) => [name, sampleOf(part, depth + 1, budget)]))
    case 'array':
      return [sampleOf(whole.items, depth + 1, budget)]
    case 'integer':
    case 'number':
      return typeof whole.minimum === 'number' ? whole.minimum : 0
    case 'boolean':
      return false
    case 'string':
      return byFormat[String(whole.format)] ?? ''
    default:
      return null
  }
}
