import type { Form } from './forms'
import type { WordSamples } from './samples'
import { wordsOf } from './series'

/** The characters of a text at a moment, by their codes. */
const codesOf = (samples: WordSamples, at: number, form: Form, moment: number): number[] =>
  wordsOf(samples, at, form, moment).flatMap((word) => [word >>> 8, word & 0xff])

export const textAt = (samples: WordSamples, at: number, form: Form, moment: number): string => {
  const codes = codesOf(samples, at, form, moment)
  const end = codes.indexOf(0)
  return String.fromCharCode(...(end < 0 ? codes : codes.slice(0, end))).trimEnd()
}

const kindOf = (code: number): string => {
  if (code === 32) return 'space'
  if (code >= 48 && code <= 57) return 'digit'
  if (code >= 65 && code <= 90) return 'capital'
  if (code >= 97 && code <= 122) return 'small'
  return 'sign'
}

const [same, other, start, padding] = [4.4, 7, 6, 1.2]
/** After a capital comes a small letter as likely as not, and a space before or after anything. */
const follows = (before: string, now: string) =>
  before === now || (before === 'capital' && now === 'small') || (now === 'space' && before !== 'sign') || before === 'space'

/** What it takes to say this text, bits: characters that can be printed, of a kind with those before; zeros only at its end. Infinite: no text. */
export const textBits = (samples: WordSamples, at: number, form: Form): number => {
  const moments = samples.times.length
  for (let register = at; register < at + form.width; register++) if (isMoving(samples.words[register]!)) return Infinity
  const codes = codesOf(samples, at, form, moments - 1)
  const end = codes.indexOf(0)
  const written = end < 0 ? codes : codes.slice(0, end)
  if (written.length < 3 || codes.slice(written.length).some((code) => code !== 0)) return Infinity
  if (written.some((code) => code < 32 || code > 126) || !written.some((code) => /[A-Za-z]/.test(String.fromCharCode(code))))
    return Infinity
  let bits = start + padding * (codes.length - written.length)
  written.forEach((code, i) => {
    const [now, before] = [kindOf(code), i === 0 ? '' : kindOf(written[i - 1]!)]
    bits += i === 0 || follows(before, now) ? same : other
  })
  return bits
}

const isMoving = (series: Uint16Array) => series.some((word) => word !== series[0])
