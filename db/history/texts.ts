import type pg from 'pg'
import { tierMs } from '#core/history/bucket'
import { RunsBuilder, type TextPicture } from '#core/history/runs'
import { isGood } from '#core/tags/quality'
import { copyEach, copyOut } from './copying'
import type { CopyReader } from './copyRows'
import { tableOf } from './parts'
import { lastBefore, literal } from './samples'

/** Longer texts are shown in part; what one had at a moment is asked for by itself. */
const mostCharacters = 200
/** Of a sample of a number, its digits. */
const shownText = 'coalesce(text, number::text)'

/** So many samples of a series are looked through, the newest ones. */
export const mostTexts = 1_000_000

export interface SeriesTexts extends TextPicture {
  id: number
  /** Whether nothing was recorded before the span. */
  isFirst: boolean
  /** Samples of any quality. */
  samples: number
  /** What was before that is too much to be looked through; null: all of the span is there. Unix milliseconds. */
  since: number | null
}

interface Asked {
  from: number
  to: number
  until: number
  columns: number
}

/** Which texts a series had: what comes out of the database is each change, however many samples say the same. */
export const textsOf = async (db: pg.ClientBase, id: number, asked: Asked, most = mostTexts): Promise<SeriesTexts> => {
  const since = await tooMuchBefore(db, id, asked, most)
  const from = since ?? asked.from
  const { to, until, columns } = asked
  const runs = new RunsBuilder(from, to, Math.max(1, Math.round((columns * (to - from)) / (to - asked.from))))
  let [isFirst, samples] = [true, 0]
  const held = await copyOut(db, lastBefore([id], from, '<', `quality, left(${shownText}, ${mostCharacters})`))
  while (held.next()) {
    isFirst = false
    runs.begin(goodText(held))
  }
  await copyEach(db, changesBetween(id, from, to), (row) => {
    samples = row.int8()
    const at = row.time()
    runs.sample(at, goodText(row))
  })
  return { id, isFirst, samples, since, ...runs.done(until) }
}

const changesBetween = (id: number, from: number, to: number) =>
  `select n, at, quality, left(text, ${mostCharacters}) from (
    select *, row_number() over w as n, lag(text) over w as text_before, lag(quality) over w as quality_before, lead(at) over w is null as is_last
    from (select distinct on (at) at, quality, ${shownText} as text from history_sample
      where series = ${Math.trunc(id)} and at >= ${literal(from)} and at < ${literal(to)} order by at, arrived desc) one
    window w as (order by at)) each
  where n = 1 or is_last or text is distinct from text_before or quality <> quality_before order by at`

/** The hour from which on a series has no more samples than `most`; null: it has no more in the whole span. */
const tooMuchBefore = async (db: pg.ClientBase, id: number, { from, to }: Asked, most: number): Promise<number | null> => {
  const { rows } = await db.query<{ hour: Date; count: number }>(
    `select date_trunc('hour', at) as hour, sum(count)::float8 as count from ${tableOf(to - from > 12 * tierMs.hour ? 'hour' : 'minute')}
      where series = $1 and at >= $2 and at < $3 group by 1 order by 1 desc`,
    [id, new Date(from), new Date(to)],
  )
  let sum = 0
  for (const { hour, count } of rows) {
    sum += count
    if (sum > most) return Math.min(to - 1, Math.max(from, hour.getTime() + tierMs.hour))
  }
  return null
}

const goodText = (row: CopyReader): string | null => {
  const code = row.int4() >>> 0
  const text = row.textOrNull()
  return isGood(code) ? text : null
}
