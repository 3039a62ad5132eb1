import { valueText } from '../text/number'
import type { DataType } from '../tags/types'
import { formRules, formsWithin, type Form, type FormKind } from './forms'
import { leftToSay } from './judge'
import { reasonsFor, type Reason } from './reasons'
import type { WordSamples } from './samples'
import { seriesOf, wordsOf } from './series'
import { textAt } from './text'
import { momentAt } from './times'

/** One way to read the words from a register on. */
export interface Reading {
  form: Form
  /** What it reads now, as a person sees it. */
  text: string
  /** The same as a number; null: it is none. */
  value: number | null
  reasons: Reason[]
}

/**
 * Every way to read the words from a register on, the narrow ones first. Two orders that give the same value are both
 * listed: a person may know the order and not the value.
 */
export const readingsAt = (samples: WordSamples, at: number): Reading[] =>
  oneText(samples, at, formsWithin(samples.words.length - at))
    .filter((form) => form.kind !== 'unused' && leftToSay(samples, at, form) < Infinity)
    .map((form) => ({ form, ...shownAt(samples, at, form), reasons: reasonsFor(samples, at, form) }))

/** Of texts the one that says most with least, in either order of its bytes. */
const oneText = (samples: WordSamples, at: number, forms: readonly Form[]): Form[] => {
  const others = forms.filter(({ kind }) => kind !== 'text')
  const texts = forms.filter(({ kind }) => kind === 'text')
  const perWord = (form: Form) => (formRules.text.rarity + leftToSay(samples, at, form)) / form.width
  const best = (['ABCD', 'BADC'] as const).flatMap((order) => {
    const own = texts.filter((form) => form.order === order).toSorted((a, b) => perWord(a) - perWord(b))
    return own[0] && perWord(own[0]) < Infinity ? [own[0]] : []
  })
  return [...others, ...best]
}

const types: Partial<Record<FormKind, DataType>> = { float32: 'float32', int64: 'int64', uint64: 'uint64' }

/** What a form reads at the last moment. */
export const shownAt = (samples: WordSamples, at: number, form: Form): Pick<Reading, 'text' | 'value'> => {
  const last = samples.times.length - 1
  if (form.kind === 'text') return { text: `“${textAt(samples, at, form, last)}”`, value: null }
  if (form.kind === 'bits') return { text: flags(wordsOf(samples, at, form, last)[0]!), value: null }
  if (isMoment(form.kind)) {
    const told = momentAt(samples, at, form, last)
    return { text: told === null ? '—' : new Date(told).toISOString().replace(/\.000Z$/, 'Z'), value: null }
  }
  const value = seriesOf(samples, at, form)!.values[last]!
  return { text: valueText(exactly(samples, at, form, last) ?? value, types[form.kind]), value }
}

const isMoment = (kind: FormKind) => kind === 'cp56' || kind === 'calendar' || kind.startsWith('unix')

/** Wide whole numbers to the last digit. */
const exactly = (samples: WordSamples, at: number, form: Form, moment: number): bigint | null => {
  if (form.kind !== 'int64' && form.kind !== 'uint64') return null
  const bits = wordsOf(samples, at, form, moment).reduce((all, word) => (all << 16n) | BigInt(word), 0n)
  return form.kind === 'int64' ? BigInt.asIntN(64, bits) : bits
}

/** As in `0000 0010 0000 0101`. */
const flags = (word: number) =>
  word
    .toString(2)
    .padStart(16, '0')
    .replace(/(.{4})(?=.)/g, '$1 ')

const titles: Record<FormKind, string> = {
  ...{ uint16: 'uint16', int16: 'int16', uint32: 'uint32', int32: 'int32', uint64: 'uint64', int64: 'int64' },
  ...{ float32: 'float32', float64: 'float64', bcd16: 'BCD, 4 digits', bcd32: 'BCD, 8 digits', bits: 'bits', text: 'text' },
  ...{
    unix32: 'seconds since 1970',
    unix64: 'ms since 1970',
    cp56: 'time in 7 octets',
    calendar: 'year, month … second',
    unused: 'not used',
  },
}

/** As in `float32 CDAB`. */
export const formText = ({ kind, order, width }: Form): string => {
  const swapped = order === 'BADC' || order === 'DCBA'
  if (kind === 'text') return `text, ${2 * width} bytes${swapped ? ', swapped' : ''}`
  if (kind === 'cp56') return `${titles.cp56}${swapped ? ', swapped' : ''}`
  return order === null ? titles[kind] : `${titles[kind]} ${order}`
}
