export const decimalSigns = ['.', ','] as const
export type DecimalSign = (typeof decimalSigns)[number]

const forms: Record<DecimalSign, RegExp> = {
  '.': /^[+-]?(\d+\.?\d*|\.\d+)(e[+-]?\d+)?$/i,
  ',': /^[+-]?(\d+,?\d*|,\d+)(e[+-]?\d+)?$/i,
}

/** A number as a file with this decimal sign has it; null: it is none. Digits are not grouped: 1.234 would mean two things. */
export const numberIn = (text: string, decimal: DecimalSign): number | null => {
  if (!forms[decimal].test(text)) return null
  const value = Number(decimal === ',' ? text.replace(',', '.') : text)
  return Number.isFinite(value) ? value : null
}

/** Why a text is no number here. */
export const noNumber = (text: string, decimal: DecimalSign): string => {
  const other = decimal === '.' ? ',' : '.'
  const fitsOther = numberIn(text, other) !== null
  return fitsOther ? `“${text}” is no number where the decimal sign is “${decimal}”.` : `“${text}” is no number.`
}

export const numberText = (value: number, decimal: DecimalSign): string =>
  decimal === ',' ? String(value).replace('.', ',') : String(value)
