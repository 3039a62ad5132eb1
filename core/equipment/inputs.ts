import { toRaw } from '../tags/scaling'
import type { DataType, TagValue } from '../tags/types'
import { conversion } from '../tags/units'

/** How the values of a tag become those of an input that is bound to it. */
export interface InputWay {
  type: DataType
  from: string
  to: string
  /** Null: as it comes, or as `isKnown` says, not at all. */
  factor: { factor: number; offset: number } | null
  isKnown: boolean
}

/** Where both have a unit and those differ, numbers are converted. */
export const inputWay = (from: string, { type, unit: to }: { type: DataType; unit: string }): InputWay => {
  const differ = from !== '' && to !== '' && from !== to
  const factor = differ ? conversion(from, to) : null
  return { type, from, to, factor, isKnown: !differ || factor !== null }
}

export type InputReading = { ok: true; value: TagValue } | { ok: false; problem: string }

/** A value as the input has it. */
export const inputReading = (value: TagValue, { type, from, to, factor, isKnown }: InputWay): InputReading => {
  if (!isKnown || (factor && typeof value !== 'number')) return { ok: false, problem: `${from} is not converted to ${to}` }
  const fits = toRaw(factor ? (value as number) * factor.factor + factor.offset : value, type, null)
  return fits.ok ? { ok: true, value: fits.raw } : { ok: false, problem: fits.detail }
}
