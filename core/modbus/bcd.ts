import type { ModbusType } from './layout'

/** Binary coded decimal (8421): each four bits carry one decimal digit, the first the highest. */

/** How the bits of a whole number may be read, if not as a binary number. */
export const codings = ['bcd'] as const

/** The types whose registers may hold it: four digits, and eight. */
export const bcdTypes = ['uint16', 'uint32'] as const satisfies ModbusType[]
export type BcdType = (typeof bcdTypes)[number]
export const isBcdType = (type: string): type is BcdType => (bcdTypes as readonly string[]).includes(type)

export const mostOfBcd: Record<BcdType, number> = { uint16: 9999, uint32: 99_999_999 }

/** The number that digits stand for; NaN where four of the bits are more than nine. */
export const fromBcd = (bits: number): number => {
  let number = 0
  for (let rest = bits, weight = 1; rest > 0; rest = Math.floor(rest / 16), weight *= 10) {
    const digit = rest % 16
    if (digit > 9) return NaN
    number += digit * weight
  }
  return number
}

/** The digits of a number that fits its type; throws RangeError for one that does not. */
export const toBcd = (number: number, type: BcdType): number => {
  if (number > mostOfBcd[type])
    throw new RangeError(`${number} has more digits than ${type} carries in BCD, which ends at ${mostOfBcd[type]}`)
  return Number.parseInt(String(number), 16)
}
