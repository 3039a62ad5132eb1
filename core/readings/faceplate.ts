/** A value as somebody read it from a faceplate: the number, and how exactly it was read. */
export interface Faceplate {
  value: number
  /** Half of its last digit. */
  tolerance: number
}

/** Null: no number. Digits may be grouped by spaces; comma or point is the decimal sign. */
export const parseFaceplate = (text: string): Faceplate | null => {
  const plain = text
    .replace(/[\s\u202f']/g, '')
    .replace(',', '.')
    .replace('−', '-')
  if (!/^[+-]?\d+(\.\d*)?$|^[+-]?\.\d+$/.test(plain)) return null
  const decimals = plain.split('.')[1]?.length ?? 0
  return { value: Number(plain), tolerance: 0.5 * 10 ** -decimals }
}

/** Raw values stand a power of ten from what is shown: 703 for 70.3. The nearest first. */
const gains = [1, 0.1, 0.01, 0.001, 10, 100, 1000]
/** A value goes on while somebody looks from one place to the other. */
const goesOn = 0.01

/** The gain with which a reading is what the faceplate shows; null: it is not. */
export const gainTo = (reading: number, { value, tolerance }: Faceplate): number | null => {
  if (!Number.isFinite(reading) || reading === 0) return reading === value ? 1 : null
  return gains.find((gain) => Math.abs(reading * gain - value) <= Math.max(tolerance, goesOn * Math.abs(value))) ?? null
}
