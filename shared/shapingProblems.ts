import { limitProblems } from '#core/alarms/limits'
import { canBeOdd, codeSpan, type OddChoice } from '#core/tags/odd'
import { passedOnBy, toRaw } from '#core/tags/scaling'
import { isArrayType, isNumeric } from '#core/tags/types'
import { conversion, relatives } from '#core/tags/units'
import { canBeNamed } from '#core/tags/valueNames'
import type { FieldMessage } from './faults'
import type { TagDraft } from './tags'

/** What the tag’s type and unit say against how its value is made. */
export const shapingProblems = (tag: TagDraft): FieldMessage[] => [
  ...conversionProblems(tag),
  ...oddProblems(tag),
  ...reportProblems(tag),
  ...nameProblems(tag),
  ...limitProblems(tag.limits, passedOnBy(tag)),
]

const conversionProblems = ({ type, rawUnit, unit }: TagDraft): FieldMessage[] => {
  if (rawUnit === '' || (isNumeric(type) && conversion(rawUnit, unit))) return []
  if (!isNumeric(type)) return [{ path: 'rawUnit', message: 'Only numbers are converted.' }]
  const others = relatives(rawUnit)
  const known = others.length > 0 ? `to ${others.join(', ')}` : 'to no other'
  return [{ path: 'rawUnit', message: `“${rawUnit}” is converted ${known}; the tag’s unit is “${unit}”.` }]
}

const oddProblems = (tag: TagDraft): FieldMessage[] => {
  const { odd, type } = tag
  if (!odd) return []
  const kinds = canBeOdd(type)
  if (kinds === null) return [{ path: 'odd', message: `A ${type} has no odd values.` }]
  const stands = (path: string, choice: OddChoice | undefined): FieldMessage[] => {
    const problem = typeof choice === 'number' ? misfit(tag, choice) : null
    return problem ? [{ path, message: problem }] : []
  }
  const codes = (odd.codes ?? []).flatMap(({ raw, then }, index) => {
    const message = codeSpan(raw, type) ? null : `“${raw}” is no raw value of a ${type}.`
    return message ? [{ path: `odd.codes.${index}.raw`, message }] : stands(`odd.codes.${index}.then`, then)
  })
  if (kinds === 'codes') return codes
  return [...stands('odd.nan', odd.nan), ...stands('odd.infinite', odd.infinite), ...stands('odd.denormal', odd.denormal), ...codes]
}

/** A number that stands instead is one that consumers could get. */
const misfit = (tag: TagDraft, value: number): string | null => {
  if (isArrayType(tag.type)) return 'No number stands for an array: pass, bad or last.'
  const fits = toRaw(value, passedOnBy(tag), null)
  return fits.ok ? null : `It does not fit: ${fits.detail}.`
}

const reportProblems = ({ type, reports, range }: TagDraft): FieldMessage[] => {
  if (!reports?.deadband) return []
  if (!isNumeric(type)) return [{ path: 'reports.deadband', message: 'Only numbers have a deadband.' }]
  if (reports.deadband.kind === 'percent' && range === null)
    return [{ path: 'reports.deadband', message: 'A deadband in percent needs the range of the tag.' }]
  return []
}

const nameProblems = ({ type, names }: TagDraft): FieldMessage[] => {
  if (names.length === 0) return []
  if (!canBeNamed(type)) return [{ path: 'names', message: `Numbers and truth values have names; a ${type} has none.` }]
  const other = type === 'bool' ? names.findIndex(({ value }) => value !== 0 && value !== 1) : -1
  return other < 0 ? [] : [{ path: `names.${other}.value`, message: 'A truth value is 0 (false) or 1 (true).' }]
}
