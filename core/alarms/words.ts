import { valueText } from '../text/number'
import { duration } from '../text/duration'
import { namedText, type ValueName } from '../tags/valueNames'
import type { DataType, TagValue } from '../tags/types'
import { isLevel, limitName, limitsContract, severities, type AlarmSeverity, type AlarmTurn, type Limit, type LimitInput } from './limits'

export const severityWords: Record<AlarmSeverity, string> = { note: 'to be noted', caution: 'caution', trouble: 'trouble' }
export const turnWords: Record<AlarmTurn, string> = {
  raised: 'raised',
  over: 'over',
  acknowledged: 'seen by somebody',
  commented: 'commented',
  dropped: 'no alarm any more',
}

/** A limit in words: “above 90 kW for 5 s”. */
export const limitWords = (limit: Limit, unit = '', names: readonly ValueName[] = []): string => {
  const of = unit === '' ? '' : ` ${unit}`
  const held = limit.delay > 0 ? ` for ${duration(limit.delay)}` : ''
  if (limit.kind === 'state') {
    const values = limit.values.map((value) => (typeof value === 'string' ? `“${value}”` : namedText(value, names))).join(' or ')
    return `${limit.not ? 'not ' : ''}${values}${held}`
  }
  if (limit.kind === 'rate') {
    const way = { either: 'changes', rising: 'rises', falling: 'falls' }[limit.way]
    return `${way} by more than ${limit.at}${of} a second${held}`
  }
  return `${limit.kind === 'high' || limit.kind === 'higher' ? 'above' : 'below'} ${limit.at}${of}${held}`
}

/** A value as somebody reads it who is in a hurry: six digits say enough. */
export const shownValue = (value: TagValue | undefined, type: DataType, names: readonly ValueName[]): string => {
  if (value === undefined) return ''
  if (names.length > 0) return namedText(value, names, type)
  const short = typeof value === 'number' && !Number.isInteger(value) ? Number(value.toPrecision(6)) : value
  return valueText(short, type === 'float32' ? 'float64' : type)
}

/** What happened, where nobody wrote a text of their own. */
export const alarmText = (limit: Limit, value: TagValue | undefined, type: DataType, unit: string, names: readonly ValueName[]): string => {
  if (limit.text !== '') return limit.text
  const has = value === undefined ? '' : `, ${shownValue(value, type, names)}${unit && ` ${unit}`}`
  return `${limitName(limit)}: ${limitWords(limit, unit, names)}${has}`
}

/**
 * Limits in one line, as tables have them: `high 90 back 2 after 5s trouble; low 10; jammed: is 3 quiet`. Texts are left out.
 *
 * @example
 * readLimits('high 90 back 2') // ok, [{kind: 'high', at: 90, band: 2, …}]
 */
export const limitsLine = (limits: readonly Limit[]): string => limits.map(limitLine).join('; ')

const limitLine = (limit: Limit): string =>
  [
    limit.name === '' ? '' : `${limit.name}:`,
    subjectLine(limit),
    'band' in limit && limit.band > 0 ? `back ${limit.band}` : '',
    limit.delay > 0 ? `after ${limit.delay / 1000}s` : '',
    limit.severity === 'caution' ? '' : limit.severity,
    limit.acknowledge ? '' : 'quiet',
  ]
    .filter(Boolean)
    .join(' ')

const subjectLine = (limit: Limit): string => {
  if (isLevel(limit)) return `${limit.kind} ${limit.at}`
  if (limit.kind === 'rate')
    return `${limit.way === 'either' ? 'rate' : limit.way} ${limit.at}${limit.over === 1000 ? '' : ` over ${limit.over / 1000}s`}`
  return `${limit.not ? 'not' : 'is'} ${limit.values.map((value) => (typeof value === 'string' ? JSON.stringify(value) : String(value))).join('|')}`
}

/** Limits out of a line, with the texts that those of the same name had: a line tells none. */
export const withTexts = (limits: readonly Limit[], before: readonly Limit[]): Limit[] => {
  const texts = new Map(before.map((limit) => [limitName(limit), limit.text]))
  return limits.map((limit) => ({ ...limit, text: texts.get(limitName(limit)) ?? limit.text }))
}

type ReadLimits = { ok: true; value: Limit[] } | { ok: false; problem: string }

/** @param text as `limitsLine` writes it */
export const readLimits = (text: string): ReadLimits => {
  const parts = splitOutsideQuotes(text, ';')
    .map((part) => part.trim())
    .filter(Boolean)
  const read: LimitInput[] = []
  for (const part of parts) {
    const one = readOne(part)
    if (typeof one === 'string') return { ok: false, problem: one }
    read.push(one)
  }
  const checked = limitsContract.safeParse(read)
  return checked.success ? { ok: true, value: checked.data } : { ok: false, problem: checked.error.issues[0]!.message }
}

/** What is quoted as JSON quotes it stays whole, a backslash before a quote included. */
const splitOutsideQuotes = (text: string, by: string): string[] => {
  const parts = ['']
  let [quoted, escaped] = [false, false]
  for (const letter of text) {
    if (letter === '"' && !escaped) quoted = !quoted
    escaped = quoted && letter === '\\' && !escaped
    if (letter === by && !quoted) parts.push('')
    else parts[parts.length - 1] += letter
  }
  return parts
}

const number = String.raw`[-+]?(?:\d+\.?\d*|\.\d+)(?:[eE][-+]?\d+)?`
const pattern = new RegExp(
  String.raw`^(?:(?<name>[^":;]{1,60}):\s*)?(?<kind>higher|high|lower|low|rate|rising|falling|is|not)\s+(?<what>(?:"(?:[^"\\]|\\.)*"|[^\s"|]+)(?:\|(?:"(?:[^"\\]|\\.)*"|[^\s"|]+))*)` +
    String.raw`(?:\s+over\s+(?<over>${number})\s*s)?(?:\s+back\s+(?<back>${number}))?(?:\s+after\s+(?<after>${number})\s*s)?(?:\s+(?<severity>${severities.join('|')}))?(?<quiet>\s+quiet)?$`,
)

const readOne = (part: string): LimitInput | string => {
  const found = pattern.exec(part)?.groups
  if (!found) return `“${part}” is no limit; write one as in high 90 back 2 after 5s trouble.`
  const { name = '', kind = '', what = '', over, back, after, severity = 'caution', quiet } = found
  const common = {
    name: name.trim(),
    delay: Math.round(Number(after ?? 0) * 1000),
    severity: severity as Limit['severity'],
    acknowledge: quiet === undefined,
  }
  if (kind === 'is' || kind === 'not')
    return { ...common, kind: 'state', not: kind === 'not', values: splitOutsideQuotes(what, '|').map(stateValue) }
  const at = Number(what)
  if (Number.isNaN(at)) return `“${what}” is no number.`
  const band = Number(back ?? 0)
  const way = ({ rate: 'either', rising: 'rising', falling: 'falling' } as const)[kind as 'rate']
  if (!way) return { ...common, kind: kind as 'high', at, band }
  return { ...common, kind: 'rate', at, band, way, over: Math.round(Number(over ?? 1) * 1000) }
}

const stateValue = (text: string): boolean | number | string => {
  if (text === 'true' || text === 'false') return text === 'true'
  if (text.startsWith('"')) {
    try {
      return String(JSON.parse(text))
    } catch {
      return text
    }
  }
  const value = Number(text)
  return Number.isNaN(value) ? text : value
}
