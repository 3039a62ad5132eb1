import { z } from 'zod'
import { idField, momentField, savedShape, wholeNumber } from '#core/contracts/fields'
import { rollupWays, windowContract } from '#core/equipment/settings'
import { keepingContract, recordingContract } from '#core/history/settings'
import { dataTypes } from '#core/tags/types'
import { flow } from './flow'
import { valueNames } from './valueNames'

/** What is recorded, how that goes, and what comes back of it. */

export const savedRecording = recordingContract
  .extend(savedShape)
  .meta({ id: 'Recording', description: 'Which tags are recorded, and how.' })
export type Recording = z.output<typeof savedRecording>

export const recordingChange = z.object({ revision: z.int(), recording: recordingContract })

export const patternTrial = z.object({ pattern: recordingContract.shape.pattern })

export const matchedTags = z.object({
  tags: z.int().describe('That go by the pattern.'),
  others: z.int().describe('Those of them about which a closer recording decides.'),
  first: z.array(z.string()).describe('The paths of the first of them.'),
})
export type MatchedTags = z.output<typeof matchedTags>

export const historyStatus = z
  .object({
    flow,
    sentence: z.string().describe('What is happening, for a person.'),
    tags: z.int().describe('That are recorded now.'),
    perSecond: z.number().describe('Samples.'),
    waiting: z.int().describe('Samples that are not in the database yet.'),
    waitingBytes: z.int(),
    oldestAt: momentField.nullable().describe('When the oldest of those came.'),
    lost: z.int().describe('Samples since the start for which there was no room, or no time.'),
    doubtful: z.int().describe('Samples since the start whose own time cannot be; they have that of their arrival.'),
  })
  .meta({ id: 'HistoryStatus', description: 'How recording goes.' })
export type HistoryStatus = z.output<typeof historyStatus>

export const shelf = z.enum(['sample', 'second', 'minute', 'hour'])

export const keepingField = keepingContract.meta({ id: 'HistoryKeeping', description: 'How long what was recorded is kept; days.' })

const shelfStock = z.object({
  shelf,
  bytes: z.number(),
  rows: z.number().describe('About.'),
  from: momentField.nullable().describe('Since when there is something; null: there is nothing.'),
  expectedBytes: z
    .number()
    .nullable()
    .describe('What it will come to at the pace of the last days, once it is as old as it is kept; null: not known, or kept for ever.'),
})
export const historyStock = z
  .object({
    keeping: keepingField,
    shelves: z.array(shelfStock),
    bytes: z.number(),
    expectedBytes: z.number().nullable().describe('Of all together, or as much as they may take; null: not known.'),
    late: z.int().describe('Minutes that are to be made again because something came late.'),
  })
  .meta({ id: 'HistoryStock' })
export type HistoryStock = z.output<typeof historyStock>

export const recordedSeries = z
  .object({
    id: z.int().describe('That of its tag.'),
    path: z.string(),
    type: z.enum(dataTypes).catch('float64'),
    unit: z.string(),
    recording: z.boolean().describe('Whether it is recorded now.'),
    since: momentField,
    tag: z.boolean().describe('Whether its tag is still there.'),
  })
  .meta({ id: 'RecordedSeries' })
export type RecordedSeries = z.output<typeof recordedSeries>

export const mostDrawn = 40
/** No picture is wider. */
const mostColumns = 4000
const farthest = 8_640_000_000_000_000

/** A moment in an address: Unix milliseconds, or a time by ISO 8601. */
export const readMomentAsked = (text: string): number => (/^-?\d+(\.\d+)?$/.test(text.trim()) ? Number(text) : Date.parse(text))

export const momentAsked = z
  .number({ error: 'A moment is a number, Unix milliseconds.' })
  .min(-farthest, 'That is no moment.')
  .max(farthest, 'That is no moment.')
  .describe('Unix milliseconds.')
export const seriesAsked = z.array(idField('A series')).min(1, 'At least one series.').max(mostDrawn, `At most ${mostDrawn} series.`)

export const spanShape = { from: momentAsked, to: momentAsked }
const inOrder = { message: 'A span ends after it begins.', path: ['to'] }
const mostSpanMs = 100 * 366 * 86_400_000
const notTooLong = { message: 'A span is at most a hundred years.', path: ['to'] }

export const pictureAsked = z
  .object({ series: seriesAsked, ...spanShape, columns: wholeNumber('The number of columns', 1, mostColumns).default(1200) })
  .refine(({ from, to }) => to > from, inOrder)
  .refine(({ from, to }) => to - from <= mostSpanMs, notTooLong)

export const statistics = z.object({
  least: z.number().nullable(),
  most: z.number().nullable(),
  mean: z.number().nullable().describe('By time: each value counts for as long as it held.'),
  samples: z.int(),
  seconds: z.number().describe('In which there was a good value.'),
})

export const seriesPicture = z
  .object({
    id: z.int(),
    path: z.string(),
    type: z.enum(dataTypes).catch('float64'),
    unit: z.string(),
    names: valueNames.describe('What its values are called.'),
    isFirst: z.boolean().describe('Whether nothing was recorded before the span.'),
    drawnFrom: shelf.describe('The coarsest that it was drawn from.'),
    at: z.array(z.number()).describe('Unix milliseconds.'),
    values: z.array(z.number().nullable()).describe('Null: from here on nothing good.'),
    runs: z
      .array(
        z.object({
          ...{ from: momentField, to: momentField, text: z.string() },
          several: z
            .int()
            .describe('0: this text all the time; else so many in turn, too close together to be shown apart: the last one stands.'),
        }),
      )
      .nullable()
      .describe('Of a series of texts: which it had when. Null: it is one of numbers.'),
    since: momentField
      .nullable()
      .describe('Of a series of texts: what was before is too much to be looked through; null: all of it is there.'),
    gaps: z.array(z.tuple([z.number(), z.number()])).describe('Where nothing good was, from and up to.'),
    statistics: statistics.describe('Of the whole span.'),
  })
  .meta({ id: 'SeriesPicture' })
export type SeriesPicture = z.output<typeof seriesPicture>

const mostInstants = 10
export const instants = z.object({
  series: seriesAsked,
  times: z.array(momentAsked).min(1, 'At least one time.').max(mostInstants, `At most ${mostInstants} times.`),
})
/** More of one series are asked for in several steps. */
export const mostWindows = 2000
export const windowsAsked = z
  .object({
    series: seriesAsked,
    ...spanShape,
    each: windowContract.describe('How long a window is; windows begin by the clock of the site.'),
    how: z.enum(rollupWays).default('mean by time').describe('What is said of each.'),
  })
  .refine(({ from, to }) => to > from, inOrder)
  .refine(({ from, to }) => to - from <= mostSpanMs, notTooLong)

export const seriesWindows = z
  .object({
    ...{ id: z.int(), path: z.string(), type: z.enum(dataTypes).catch('float64'), unit: z.string() },
    windows: z.array(
      z.object({
        from: momentField,
        to: momentField,
        value: z.number().nullable(),
        quality: z.int().describe('An OPC UA status code: good where the whole window is known.'),
      }),
    ),
  })
  .meta({ id: 'SeriesWindows', description: 'What became of a series over windows of time.' })
export type SeriesWindows = z.output<typeof seriesWindows>

const recordedSample = z
  .object({
    at: momentField,
    quality: z.int().describe('An OPC UA status code.'),
    number: z.number().nullable(),
    text: z.string().nullable().describe('Where a number does not say all.'),
  })
  .meta({ id: 'RecordedSample' })
export type RecordedSample = z.output<typeof recordedSample>
export const seriesAtInstants = z.object({
  id: z.int(),
  samples: z.array(recordedSample.nullable()).describe('In the order of the times; null: there was nothing yet.'),
})
