import { qualityName } from '#core/tags/quality'
import { tableText, type Cell } from '#core/formats/csv/write'
import type { Delimiter } from '#core/formats/csv/dialect'
import type { DecimalSign } from '#core/formats/csv/numbers'
import type { Bucket, Tier } from '#core/history/bucket'
import type { HistoryReader } from '#db/history/reader'
import type { StoredSample } from '#db/history/samples'
import type { SeriesFacts } from './series'

/** What was recorded as a table: single samples, or what became of each second, minute or hour. */

export interface TableAsked {
  series: readonly SeriesFacts[]
  from: number
  to: number
  of: 'sample' | Tier
}

interface Column<Row> {
  name: string
  type: 'STRING' | 'TIMESTAMP' | 'DOUBLE' | 'INT32'
  cell(row: Row, series: SeriesFacts): string | number | Date | null
}

const orNull = (value: number) => (Number.isFinite(value) ? value : null)

const sampleColumns: Column<StoredSample>[] = [
  { name: 'path', type: 'STRING', cell: (_, { path }) => path },
  { name: 'time', type: 'TIMESTAMP', cell: ({ at }) => new Date(at) },
  { name: 'value', type: 'DOUBLE', cell: ({ number }) => orNull(number) },
  { name: 'text', type: 'STRING', cell: ({ text }) => text },
  { name: 'unit', type: 'STRING', cell: (_, { unit }) => unit },
  { name: 'quality', type: 'STRING', cell: ({ quality }) => qualityName(quality) },
]

const bucketColumns: Column<Bucket>[] = [
  { name: 'path', type: 'STRING', cell: (_, { path }) => path },
  { name: 'time', type: 'TIMESTAMP', cell: ({ at }) => new Date(at) },
  { name: 'least', type: 'DOUBLE', cell: ({ min }) => orNull(min) },
  { name: 'most', type: 'DOUBLE', cell: ({ max }) => orNull(max) },
  { name: 'mean', type: 'DOUBLE', cell: ({ seconds, integral }) => (seconds > 0 ? integral / seconds : null) },
  { name: 'first', type: 'DOUBLE', cell: ({ first }) => orNull(first) },
  { name: 'last', type: 'DOUBLE', cell: ({ last }) => orNull(last) },
  { name: 'samples', type: 'INT32', cell: ({ count }) => count },
  { name: 'good_seconds', type: 'DOUBLE', cell: ({ seconds }) => seconds },
  { name: 'unit', type: 'STRING', cell: (_, { unit }) => unit },
]

const rowsAtOnce = 20_000

/** The table part by part: its columns, and rows of one series after the other. */
async function* partsOf(reader: HistoryReader, { series, from, to, of }: TableAsked) {
  for (const one of series) {
    let next = from
    for (;;) {
      const rows: (StoredSample | Bucket)[] =
        of === 'sample'
          ? await reader.samples({ id: one.id, from: next, to, most: rowsAtOnce })
          : await reader.buckets(of, one.id, next, to, rowsAtOnce)
      if (rows.length > 0) yield { series: one, rows }
      if (rows.length < rowsAtOnce) break
      next = rows.at(-1)!.at + 1
    }
  }
}

const columnsOf = (of: TableAsked['of']) => (of === 'sample' ? sampleColumns : bucketColumns) as Column<StoredSample | Bucket>[]

/** By this mark spreadsheets know UTF-8. */
const mark = '\ufeff'

/** As CSV (RFC 4180), made while it is taken. */
export const csvTable = (
  reader: HistoryReader,
  asked: TableAsked,
  dialect: { delimiter: Delimiter; decimal: DecimalSign },
): ReadableStream => {
  const columns = columnsOf(asked.of)
  const encoder = new TextEncoder()
  const parts = partsOf(reader, asked)
  const cellOf = (cell: string | number | Date | null): Cell => (cell instanceof Date ? cell.toISOString() : cell)
  return new ReadableStream({
    start: (stream) => stream.enqueue(encoder.encode(mark + tableText([columns.map(({ name }) => name)], dialect))),
    async pull(stream) {
      const { done, value } = await parts.next()
      if (done) return stream.close()
      const records = value.rows.map((row) => columns.map(({ cell }) => cellOf(cell(row, value.series))))
      stream.enqueue(encoder.encode(tableText(records, dialect)))
    },
  })
}

/** As Apache Parquet; it is made as a whole, so that it may have so many rows only. */
export const mostParquetRows = 2_000_000

/** Null: it would have too many rows. */
export const parquetTable = async (reader: HistoryReader, asked: TableAsked): Promise<Uint8Array | null> => {
  const columns = columnsOf(asked.of)
  const data = columns.map((): (string | number | Date | null)[] => [])
  for await (const { series, rows } of partsOf(reader, asked)) {
    if (data[0]!.length + rows.length > mostParquetRows) return null
    for (const row of rows) columns.forEach(({ cell }, i) => data[i]!.push(cell(row, series)))
  }
  const { parquetWriteBuffer } = await import('hyparquet-writer')
  const columnData = columns.map(({ name, type }, i) => ({ name, type, data: data[i]!, nullable: true }))
  return new Uint8Array(parquetWriteBuffer({ columnData }))
}
