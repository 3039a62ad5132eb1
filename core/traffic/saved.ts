import { tableText } from '../formats/csv/write'
import { CaptureWriter } from './capture/written'
import type { FrameBook, FrameConnection, FrameRow } from './frameBook'

/** Frames as files. */

export const savedForms = ['text', 'csv', 'jsonl', 'pcapng'] as const
export type SavedForm = (typeof savedForms)[number]

/** Lines are put together to pieces of about so many. */
const linesAtOnce = 2000
const utf8 = new TextEncoder()

const hexOf = (bytes: Uint8Array) => {
  let text = ''
  for (const byte of bytes) text += byte < 16 ? `0${byte.toString(16)}` : byte.toString(16)
  return text
}

/** As in `2026-11-25T14:06:45.002118Z`. */
export const microsIso = (at: number): string => {
  const micros = Math.round(at * 1000)
  return new Date(Math.floor(micros / 1000)).toISOString().replace('Z', `${String(micros % 1000).padStart(3, '0')}Z`)
}

interface Line {
  row: FrameRow
  bytes: Uint8Array
  connection: FrameConnection | undefined
}

const asText = ({ row, bytes, connection }: Line) =>
  `${microsIso(row.at)}  ${row.out ? '>' : '<'} ${connection?.peer ?? row.connection}  ${row.length} B  ${row.summary}` +
  `${row.answerMs === null ? '' : `  (${row.answerMs.toFixed(1)} ms)`}  ${hexOf(bytes)}\n`

const csvHead = tableText([['time', 'connection', 'from', 'to', 'length', 'what', 'outcome', 'answer ms', 'bytes']])
const asCsv = ({ row, bytes, connection }: Line) => {
  const ends = [connection?.here ?? '', connection?.peer ?? '']
  const [from = '', to = ''] = row.out ? ends : ends.toReversed()
  const { connection: id, length, summary, outcome, answerMs } = row
  return tableText([[microsIso(row.at), id, from, to, length, summary, outcome, answerMs, hexOf(bytes)]])
}

const asJson = ({ row, bytes, connection }: Line) =>
  `${JSON.stringify({
    ...{ time: microsIso(row.at), connection: row.connection, here: connection?.here ?? '', peer: connection?.peer ?? '' },
    ...{ out: row.out, length: row.length, what: row.summary, outcome: row.outcome, answerMs: row.answerMs, bytes: hexOf(bytes) },
  })}\n`

const lineForms = { text: asText, csv: asCsv, jsonl: asJson } as const

/** A file in pieces; who takes them may rest between two. */
export function* savedFrames(book: FrameBook, numbers: Iterable<number>, form: SavedForm, name: string): Generator<Uint8Array> {
  const connections = new Map(book.known.map((one) => [one.id, one]))
  if (form === 'pcapng') return yield* packetsOf(book, numbers, connections, name)
  const write = lineForms[form]
  let lines = form === 'csv' ? csvHead : ''
  let count = 0
  for (const n of numbers) {
    const row = book.row(n)
    if (!row) continue
    lines += write({ row, bytes: book.bytesOf(n), connection: connections.get(row.connection) })
    if (++count % linesAtOnce !== 0) continue
    yield utf8.encode(lines)
    lines = ''
  }
  yield utf8.encode(lines)
}

function* packetsOf(
  book: FrameBook,
  numbers: Iterable<number>,
  connections: ReadonlyMap<number, FrameConnection>,
  name: string,
): Generator<Uint8Array> {
  const writer = new CaptureWriter(connections)
  yield* writer.begin(book.known[0]?.kind ?? '', name)
  for (const n of numbers) {
    const row = book.row(n)
    if (row) yield* writer.packets({ ...row, bytes: book.bytesOf(n) })
  }
}
