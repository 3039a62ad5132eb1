import type pg from 'pg'
import { RunsBuilder, type TextPicture } from '#core/history/runs'
import { isGood } from '#core/tags/quality'
import { copyEach, copyOut } from './copying'
import type { CopyReader } from './copyRows'
import { idList, lastBefore, literal } from './samples'

/** Longer texts are shown in part; what one had at a moment is asked for by itself. */
const mostCharacters = 200
/** Of a sample of a number, its digits. */
const shownText = 'coalesce(text, number::text)'

export interface SeriesTexts extends TextPicture {
  id: number
  /** Whether nothing was recorded before the span. */
  isFirst: boolean
  /** Samples of any quality. */
  samples: number
}

/** Which texts series had: what comes out of the database is each change, however many samples say the same. */
export const textsOf = async (
  db: pg.ClientBase,
  ids: readonly number[],
  span: { from: number; to: number; until: number },
  columns: number,
): Promise<SeriesTexts[]> => {
  const { from, to, until } = span
  const builders = new Map(ids.map((id) => [id, { runs: new RunsBuilder(from, to, columns), isFirst: true, samples: 0 }]))
  const held = await copyOut(db, lastBefore(ids, from, '<', `series, quality, left(${shownText}, ${mostCharacters})`))
  while (held.next()) {
    const builder = builders.get(held.int4())!
    builder.isFirst = false
    builder.runs.begin(goodText(held))
  }
  await copyEach(
    db,
    `select series, n, at, quality, left(text, ${mostCharacters}) from (
      select *, row_number() over w as n, lag(text) over w as text_before, lag(quality) over w as quality_before, lead(at) over w is null as is_last
      from (select distinct on (series, at) series, at, quality, ${shownText} as text from history_sample
        where series = any(${idList(ids)}) and at >= ${literal(from)} and at < ${literal(to)} order by series, at, arrived desc) one
      window w as (partition by series order by at)) each
    where n = 1 or is_last or text is distinct from text_before or quality <> quality_before order by series, at`,
    (row) => {
      const builder = builders.get(row.int4())!
      builder.samples = row.int8()
      const at = row.time()
      builder.runs.sample(at, goodText(row))
    },
  )
  return ids.map((id) => {
    const { runs, isFirst, samples } = builders.get(id)!
    return { id, isFirst, samples, ...runs.done(until) }
  })
}

const goodText = (row: CopyReader): string | null => {
  const code = row.int4() >>> 0
  const text = row.textOrNull()
  return isGood(code) ? text : null
}
