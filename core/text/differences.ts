/** A field of a thing that differs; null: it is not there. */
export interface Difference {
  field: string
  before: string | null
  after: string | null
}

type Plain = Record<string, unknown>
const isPlain = (value: unknown): value is Plain => typeof value === 'object' && value !== null

/** In which fields two things differ, however deep; fields as in `settings.patience.connect` or `doors.0.port`. */
export const differencesBetween = (before: unknown, after: unknown, field = ''): Difference[] => {
  if (isPlain(before) || isPlain(after)) {
    if (isEmpty(before) && isEmpty(after)) return []
    const [a, b] = [isPlain(before) ? before : {}, isPlain(after) ? after : {}]
    const names = [...new Set([...Object.keys(a), ...Object.keys(b)])]
    return names.flatMap((name) => differencesBetween(a[name], b[name], field === '' ? name : `${field}.${name}`))
  }
  const [from, to] = [textOf(before), textOf(after)]
  return from === to ? [] : [{ field, before: brief(from), after: brief(to) }]
}

const mostShown = 400
/** A document is told by how it begins. */
const brief = (text: string | null) =>
  text === null || text.length <= mostShown ? text : `${text.slice(0, mostShown)} … ${text.length.toLocaleString('en-GB')} characters`

/** Nothing, or a thing without anything in it. */
const isEmpty = (value: unknown) => value === null || value === undefined || (isPlain(value) && Object.keys(value).length === 0)

const textOf = (value: unknown): string | null => (value === null || value === undefined || value === '' ? null : String(value))
