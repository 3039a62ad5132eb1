import { valueText } from '../text/number'
import type { Item } from './description/description'
import type { Raw } from './image'
import { typeFor } from './point'

/** A value as its description means it: its name, or scaled, with so many digits as it says. */
export const itemText = ({ type, scale }: Pick<Item, 'type' | 'scale'>, raw: Raw): string => {
  const named = type.names.find(({ value }) => value === Number(raw))
  if (named && typeof raw !== 'string') return named.name
  if (typeof raw !== 'number' || (scale.gradient === 1 && scale.offset === 0 && scale.digits === null)) return valueText(raw, typeFor(type))
  const value = raw * scale.gradient + scale.offset
  const digits = scale.digits ?? digitsOf(scale.gradient)
  return value.toFixed(digits).replace('-', '−')
}

/** As many digits as a step of the raw value changes. */
const digitsOf = (gradient: number): number => Math.min(6, Math.max(0, -Math.floor(Math.log10(Math.abs(gradient) || 1))))
