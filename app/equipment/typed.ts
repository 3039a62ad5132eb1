import type { ScalarType } from '#core/tags/types'

/** A value as it was typed for a property; what is none of its type stays as text, so that it can be told. */
export const typedValue = (text: string, type: ScalarType): string | number | boolean => {
  if (type === 'string') return text
  if (type === 'bool') return text === 'true' ? true : text === 'false' ? false : text
  const number = Number(text.replace(',', '.'))
  return Number.isFinite(number) ? number : text
}
