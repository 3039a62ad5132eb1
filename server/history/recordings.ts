import { closestOf } from '#core/history/closest'
import { pathMatcher } from '#core/tags/pattern'
import type { Row } from '#db/editor'
import { readable, thingOf } from '#db/rows'
import type { MatchedTags, Recording } from '#shared/history'
import { database } from '../store/database'

export const shownRecording = (row: Row<'recording'>): Recording => thingOf('recording', row)

export const allRecordings = async (): Promise<Recording[]> =>
  readable(await database().selectFrom('recording').selectAll().execute(), shownRecording)

const mostShown = 12

/** Which tags a pattern would take, as the other recordings are. */
export const matching = async (pattern: string): Promise<MatchedTags> => {
  const rows = await database().selectFrom('tag').select('path').orderBy('path').execute()
  const takes = pathMatcher(pattern)
  const paths = rows.map(({ path }) => path).filter((path) => takes(path))
  const others = (await allRecordings()).filter((one) => one.pattern !== pattern)
  const decide = closestOf<{ pattern: string }>([...others, { pattern }])
  const decidedElsewhere = paths.filter((path) => decide(path)?.pattern !== pattern)
  return { tags: paths.length, others: decidedElsewhere.length, first: paths.slice(0, mostShown) }
}
