/** A document of somebody else, of which nothing is known before it was looked at. */

export type Parts = Record<string, unknown>

export const recordOf = (value: unknown): Parts =>
  typeof value === 'object' && value !== null && !Array.isArray(value) ? (value as Parts) : {}
export const listOf = (value: unknown): unknown[] => (Array.isArray(value) ? (value as unknown[]) : [])
export const textOf = (value: unknown): string => (typeof value === 'string' ? value : '')

/** The type that a schema names first, besides null. */
export const typeOf = ({ type, properties, items }: Parts): string => {
  const named = Array.isArray(type) ? type.find((one) => one !== 'null') : type
  if (typeof named === 'string') return named
  return properties === undefined ? (items === undefined ? '' : 'array') : 'object'
}

/** A schema with what it is made of: all of `allOf`, the first of `oneOf` and `anyOf`. */
export const merged = (schema: unknown, depth = 0): Parts => {
  const own = recordOf(schema)
  const parts = [...listOf(own.allOf), ...listOf(own.oneOf).slice(0, 1), ...listOf(own.anyOf).slice(0, 1)]
  if (parts.length === 0 || depth > 8) return own
  return [...parts.map((part) => merged(part, depth + 1)), own].reduce<Parts>(
    (whole, part) => ({ ...whole, ...part, properties: { ...recordOf(whole.properties), ...recordOf(part.properties) } }),
    {},
  )
}

/** What is said in JSON, of a body or an answer; null: nothing is. */
export const jsonContent = (content: unknown): { type: string; media: Parts } | null => {
  const found = Object.entries(recordOf(content)).find(([type]) => /[/+]json\b/i.test(type))
  return found ? { type: found[0], media: recordOf(found[1]) } : null
}
