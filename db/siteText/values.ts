import { isRecord } from '../subjects/definition'

/** The names of fields and places in lists that lead to a part. */
export type Way = readonly (string | number)[]

export const valueAt = (value: unknown, path: Way): unknown =>
  path.reduce<unknown>((part, step) => (Array.isArray(part) ? part[Number(step)] : isRecord(part) ? part[step] : undefined), value)

/** A copy with another value at one place; what leads there is made where it is missing. */
export const withValue = (whole: unknown, path: Way, value: unknown): unknown => {
  const [step, ...rest] = path
  if (step === undefined) return value
  if (Array.isArray(whole)) return whole.map((part: unknown, i) => (i === Number(step) ? withValue(part, rest, value) : part))
  return { ...(isRecord(whole) ? whole : {}), [step]: withValue(isRecord(whole) ? whole[step] : undefined, rest, value) }
}
