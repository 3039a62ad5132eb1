import type pg from 'pg'
import { from as copyFrom, to as copyTo } from 'pg-copy-streams'
import { Readable } from 'node:stream'
import { finished, pipeline } from 'node:stream/promises'
import { CopyReader, wholeCopy } from './copyRows'

type Connection = Pick<pg.ClientBase, 'query'>

/** @param into a table with the columns that the rows have, as in `history_late (series, minute)` */
export const copyInto = async (client: Connection, into: string, rows: readonly Uint8Array[]): Promise<void> => {
  const stream = client.query(copyFrom(`copy ${into} from stdin (format binary)`))
  await pipeline(Readable.from(wholeCopy(rows)), stream)
}

/** @param statement that asks for the rows; it has no parameters */
export const copyOut = async (client: Connection, statement: string): Promise<CopyReader> => {
  const stream = client.query(copyTo(`copy (${statement}) to stdout (format binary)`))
  const parts: Buffer[] = []
  // to wait for one part after the other takes as long as to read them
  stream.on('data', (part: Buffer) => parts.push(part))
  await finished(stream)
  const rows = new CopyReader()
  rows.push(Buffer.concat(parts))
  return rows
}

/** The same for many rows: each is taken as it comes, while the database goes on with the next ones. */
export const copyEach = async (client: Connection, statement: string, take: (row: CopyReader) => void): Promise<void> => {
  const stream = client.query(copyTo(`copy (${statement}) to stdout (format binary)`))
  const rows = new CopyReader()
  stream.on('data', (part: Buffer) => {
    try {
      rows.push(part)
      while (rows.next()) take(rows)
    } catch (error) {
      stream.destroy(error as Error)
    }
  })
  await finished(stream)
}
