import { z } from 'zod'
import { numberCell, orElse, set, spanCell, wordCell } from '#core/formats/cells'
import { readRecording } from '#core/signals/recording'
import { signalShapeNames, signalShapes } from '#core/signals/signal'
import { isNumeric } from '#core/tags/types'
import { milliseconds } from '#core/contracts/fields'
import type { SourceColumn } from './columns'
import type { SourceRules } from './source'

const mostRecording = 500_000

export const signalSource = z.object({
  kind: z.literal('signal'),
  shape: z.enum(signalShapeNames, { error: `A shape is ${signalShapeNames.join(', ')}.` }).default('sine'),
  every: milliseconds('The interval', 20, 86_400_000).default(1000).describe('How often it changes, ms.'),
  low: z.number({ error: 'The low end is a number.' }).default(0),
  high: z.number({ error: 'The high end is a number.' }).default(100),
  cycle: milliseconds('A cycle', 100, 604_800_000).default(60_000).describe('How long until it starts over, ms.'),
  step: z.number({ error: 'A step is a number.' }).positive('A step is above 0.').default(1),
  seed: z.int({ error: 'A seed is a whole number.' }).min(0).max(4_294_967_295).default(1).describe('The same seed gives the same course.'),
  of: z.string().max(240).default('').describe('The tag that noise is laid on, by its path.'),
  recording: z
    .string()
    .max(mostRecording, `A recording has at most ${mostRecording.toLocaleString('en-GB')} characters.`)
    .default('')
    .describe('CSV: a column of times, ISO 8601 or seconds, and one of values.'),
})

export type SignalSource = z.output<typeof signalSource>

const number = (name: 'low' | 'high' | 'step' | 'seed', usual: number, about: string): SourceColumn<SignalSource> => ({
  name: `signal_${name}`,
  about,
  field: name,
  show: (source) => (source[name] === usual ? null : source[name]),
  put: (source, cell, reading) =>
    set(
      orElse(cell, usual, () => numberCell(cell, reading)),
      (value) => (source[name] = value),
    ),
})
const span = (name: 'every' | 'cycle', usual: number, about: string): SourceColumn<SignalSource> => ({
  name: `signal_${name}`,
  about: `${about}: milliseconds, or a number with ms, s, min or h.`,
  field: name,
  show: (source) => (source[name] === usual ? null : source[name]),
  put: (source, cell, reading) =>
    set(
      orElse(cell, usual, () => spanCell(cell, reading)),
      (value) => (source[name] = value),
    ),
})
const words = (name: 'of' | 'recording', about: string): SourceColumn<SignalSource> => ({
  name: `signal_${name}`,
  about,
  field: name,
  show: (source) => source[name] || null,
  put: (source, cell) => {
    source[name] = cell
    return null
  },
})

const columns: readonly SourceColumn<SignalSource>[] = [
  {
    name: 'signal',
    about: `The shape of a signal: ${signalShapeNames.join(', ')}.`,
    field: 'shape',
    show: ({ shape }) => shape,
    put: (source, cell) => set(wordCell(cell, signalShapeNames, 'shape'), (shape) => (source.shape = shape)),
  },
  span('every', 1000, 'How often a signal changes'),
  number('low', 0, 'The low end of a signal. Empty: 0.'),
  number('high', 100, 'The high end of it. Empty: 100.'),
  span('cycle', 60_000, 'How long a signal takes until it starts over'),
  number('step', 1, 'How far a counter, a walk or noise goes at once. Empty: 1.'),
  number('seed', 1, 'What its chance starts from. Empty: 1.'),
  words('of', 'The path of the tag that noise is laid on.'),
  words('recording', 'The recording that is played, as CSV.'),
]

/** A value that is made here over time, to try things with or to stand in for what is not there yet. */
export const signal: SourceRules<SignalSource> = {
  contract: signalSource,
  title: 'Signal',
  subtitle: 'made here over time: sine, walk, recording …',
  isScaled: false,
  isDamped: true,
  columns,
  blank: () => signalSource.parse({ kind: 'signal' }),
  usualType: () => 'float64',
  problems: ({ type, access, source }) => {
    const { shape, low, high, of, recording } = source
    const not = (holds: boolean, path: string, message: string) => (holds ? [] : [{ path, message }])
    const read = shape === 'playback' ? readRecording(recording) : null
    return [
      ...not(isNumeric(type) || (type === 'bool' && shape === 'square'), 'type', `A signal is a number: ${signalShapes[shape]}.`),
      ...not(shape === 'noise' || shape === 'playback' || low < high, 'source.high', 'The high end lies above the low end.'),
      ...not(shape !== 'noise' || of.trim() !== '', 'source.of', 'On which tag is the noise laid?'),
      ...not(read === null || read.ok, 'source.recording', read && !read.ok ? `The recording cannot be read: ${read.problem}.` : ''),
      ...not(access === 'read', 'access', 'A signal is not written.'),
    ]
  },
  settled: (tag) => tag,
  paths: {
    of: ({ shape, of }) => (shape === 'noise' ? [of] : []),
    renamed: (source, nowCalled) => ({ ...source, of: nowCalled(source.of) }),
  },
  isSame: (a, b) => JSON.stringify(a) === JSON.stringify(b),
}
