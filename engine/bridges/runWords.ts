import { textOf, type Carried } from '#core/messages/carried'
import type { Shaped } from '#core/bridges/parcel'
import type { InputValue } from '#core/bridges/run'
import { severityOf } from '#core/tags/quality'
import type { RunOutcome } from '#shared/bridges/status'
import type { Verdict } from '../links/receiving'

/** A run in words, as its page shows it. */

const longestText = 400

const shortened = (text: string) => (text.length > longestText ? `${text.slice(0, longestText)}…` : text)

export const inputText = (name: string, { value, quality }: InputValue) => ({
  name,
  text: shortened(shown(value)),
  good: severityOf(quality) === 'good',
})

const shown = (value: Carried) => (value === null ? 'null' : textOf(value))

export const recordText = (fields: readonly string[], { to, values }: Shaped): string => {
  const place = to.length === 1 ? `${to[0]}  ` : ''
  return shortened(place + fields.map((field, i) => `${to.length > 1 ? to[i] : field} ${shown(values[i] ?? null)}`).join(', '))
}

export const outcomeOf = (verdict: Verdict | 'kept' | 'dropped'): RunOutcome => {
  if (verdict === null) return 'sent'
  return typeof verdict === 'string' ? verdict : 'refused'
}

const worst: RunOutcome[] = ['failed', 'refused', 'dropped', 'kept', 'under way', 'sent']
export const worstOutcome = (outcomes: readonly RunOutcome[]): RunOutcome => worst.find((one) => outcomes.includes(one)) ?? 'sent'
