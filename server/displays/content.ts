import { troublesBelow } from '#core/displays/names'
import type { Shows } from '#core/displays/settings'
import type { PaneContent } from '#shared/displays'
import { picturesOf } from '../history/pictures'
import { seriesFacts } from '../history/series'
import { windowsOfSeries } from '../history/windows'
import { findTags } from './named'
import { troublesIn } from './troubles'

/** What a pane shows besides present values. @param equipment for which; empty: for none */
export const contentOf = async (shows: Shows, equipment: string, columns: number): Promise<PaneContent> => {
  switch (shows.kind) {
    case 'trend':
      return trendOf(shows, equipment, columns)
    case 'windows':
      return windowsFor(shows, equipment)
    case 'troubles':
      return { kind: 'troubles', ...(await troublesIn(troublesBelow(shows.below, equipment), shows.most)) }
    default:
      return { kind: 'live' }
  }
}

const trendOf = async ({ of, length }: Shows & { kind: 'trend' }, equipment: string, columns: number): Promise<PaneContent> => {
  const to = Date.now()
  const span = { from: to - length, to }
  const ids = (await findTags(of, equipment)).flatMap(({ id }) => (id === null ? [] : [id]))
  if (ids.length === 0) return { kind: 'trend', ...span, pictures: [] }
  return { kind: 'trend', ...span, pictures: await picturesOf(await seriesFacts(ids), span.from, span.to, columns) }
}

/** Windows of each unit are no longer than this. */
const longest = { second: 1000, minute: 60_000, hour: 3_600_000, day: 90_000_000, week: 608_400_000, month: 2_682_000_000, quarter: 7_952_400_000, year: 31_626_000_000 } // prettier-ignore

const windowsFor = async ({ of, how, each, count }: Shows & { kind: 'windows' }, equipment: string): Promise<PaneContent> => {
  const [tag] = await findTags([of], equipment)
  if (!tag || tag.id === null) return { kind: 'windows', series: null }
  const to = Date.now()
  const from = to - longest[each.unit] * each.count * (count - 1)
  const [series] = await windowsOfSeries({ series: [tag.id], from, to, each, how })
  return { kind: 'windows', series: series ? { ...series, windows: series.windows.slice(-count) } : null }
}
