import type { ValueName } from '#core/tags/valueNames'

/** What values are called, by their numbers. */
export const named = (names: Readonly<Record<number, string>>): ValueName[] =>
  Object.entries(names).map(([value, name]) => ({ value: Number(value), name }))
