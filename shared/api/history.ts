import { z } from 'zod'
import { delimiters } from '#core/formats/csv/dialect'
import { decimalSigns } from '#core/formats/csv/numbers'
import { recordingContract } from '#core/history/settings'
import {
  historyStock,
  instants,
  keepingField,
  matchedTags,
  momentAsked,
  patternTrial,
  pictureAsked,
  readMomentAsked,
  recordedSeries,
  recordingChange,
  savedRecording,
  seriesAsked,
  seriesAtInstants,
  seriesPicture,
  shelf,
  windowsAsked,
  seriesWindows,
} from '../history'
import { listQuery, listWhole, pageOf } from './lists'
import { fileBody, operation } from './operation'
import { removed } from './removed'

const group = 'History'
const example: z.input<typeof recordingContract> = { pattern: 'berth/**', how: { kind: 'change', band: 0.5 } }

export const listRecordings = operation('GET /recordings', {
  group,
  needs: 'look',
  does: 'Which tags are recorded, and how.',
  query: listQuery(['pattern', 'id', 'revision'], listWhole),
  answer: pageOf(savedRecording),
})

export const makeRecording = operation('POST /recordings', {
  group,
  needs: 'configure',
  does: 'Has tags recorded: one by its path, or all whose paths go by a pattern. The closest recording decides about a tag.',
  body: recordingContract,
  example,
  answer: savedRecording,
  faults: ['entry.taken'],
})

export const changeRecording = operation('PUT /recordings/{id}', {
  group,
  needs: 'configure',
  does: 'Changes a recording, unless somebody else did since. What was recorded stays.',
  body: recordingChange,
  example: { revision: 9, recording: example },
  answer: savedRecording,
  faults: ['entry.taken', 'entry.edited'],
})

export const removeRecording = operation('DELETE /recordings/{id}', {
  group,
  needs: 'configure',
  does: 'Ends a recording. What was recorded stays until it is too old.',
  answer: removed,
})

export const matchRecording = operation('POST /recordings/matching', {
  group,
  needs: 'look',
  does: 'Which tags a pattern of paths takes, and which of them another recording decides about.',
  body: patternTrial,
  example: { pattern: 'berth/**' },
  answer: matchedTags,
})

export const listSeries = operation('GET /history/series', {
  group,
  needs: 'look',
  does: 'Everything that was ever recorded, also of tags that are gone.',
  query: listQuery(['path', 'id']),
  answer: pageOf(recordedSeries),
})

export const drawHistory = operation('POST /history/picture', {
  group,
  needs: 'look',
  does: 'How series went over a span, reduced to what a picture of some width can show: the first, the least, the most and the last of each column.',
  body: pictureAsked,
  example: { series: [12], from: 1_764_316_800_000, to: 1_764_320_400_000, columns: 1200 },
  answer: z.array(seriesPicture),
  faults: ['entry.gone', 'history.slow'],
})

export const valuesAt = operation('POST /history/at', {
  group,
  needs: 'look',
  does: 'What series had at given times: of each the last sample that is no later.',
  body: instants,
  example: { series: [12], times: [1_764_316_800_000] },
  answer: z.array(seriesAtInstants),
  faults: ['history.slow'],
})

export const windowsOf = operation('POST /history/windows', {
  group,
  needs: 'look',
  does: 'What became of series over windows of time: the least, the mean, a count and so on of each.',
  body: windowsAsked,
  example: { series: [12], from: 1_764_316_800_000, to: 1_764_403_200_000, each: { count: 1, unit: 'hour' }, how: 'mean by time' },
  answer: z.array(seriesWindows),
  faults: ['entry.gone', 'history.slow', 'history.too-many-windows'],
})

/** Ids with commas between them. */
const seriesList = z
  .string()
  .max(1000)
  .transform((text) => text.split(',').map(Number))
  .pipe(seriesAsked)
const momentText = z.string().max(40).transform(readMomentAsked).pipe(momentAsked)
const tableQuery = {
  series: seriesList.describe('The ids of series, with commas.'),
  from: momentText.describe('Unix milliseconds, or a time as in 2026-11-25T05:00:00Z.'),
  to: momentText.describe('Up to but without; as `from`.'),
  of: shelf.default('sample').describe('Single samples, or what became of each second, minute or hour.'),
}

export const historyCsv = operation('GET /history/table.csv', {
  group,
  needs: 'look',
  does: 'What was recorded as a table (CSV, RFC 4180). Seconds are there only of minutes with more than 120 samples.',
  query: {
    ...tableQuery,
    delimiter: z.enum(delimiters).default(',').describe('What divides cells.'),
    decimal: z.enum(decimalSigns).default('.').describe('The decimal sign.'),
  },
  answer: z.string(),
  as: 'csv',
  faults: ['entry.gone', 'history.slow'],
})

export const historyParquet = operation('GET /history/table.parquet', {
  group,
  needs: 'look',
  does: 'The same as Apache Parquet.',
  query: tableQuery,
  answer: z.string(),
  as: 'parquet',
  faults: ['entry.gone', 'history.slow', 'history.too-many'],
})

export const bringPast = operation('POST /history/table', {
  group,
  needs: 'configure',
  does: 'Brings in what was recorded elsewhere: a table (CSV, RFC 4180) with the columns path, time and value, and where wanted text and quality; all of it or nothing. Of two samples of one time the one that came later holds. Minutes and hours are made again.',
  body: fileBody,
  size: 'file',
  answer: z.object({ samples: z.int(), series: z.int() }),
  faults: ['history.table'],
})

export const showHistory = operation('GET /history', {
  group,
  needs: 'look',
  does: 'How much was recorded, how long it is kept, and what that will come to.',
  answer: historyStock,
})

export const keepHistory = operation('PUT /history/keeping', {
  group,
  needs: 'administer',
  does: 'Says how long single samples, seconds, minutes and hours are kept, and how much space they may take. What is too old goes at once.',
  body: keepingField,
  example: { sample: 90, second: 30, minute: 730, hour: null, mostGb: 200 },
  answer: keepingField,
})
