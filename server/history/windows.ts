import { ownZone } from '#core/equipment/zone'
import { rolledUp } from '#core/equipment/rollup'
import type { RollupWay } from '#core/equipment/settings'
import { windowsBetween, type Window } from '#core/equipment/windows'
import { fault } from '#core/faults/catalogue'
import { mostWindows, type SeriesWindows } from '#shared/history'
import { Refusal } from '../answers/refusal'
import { database } from '../store/database'
import { historyReader } from '../store/history'
import { seriesFacts } from './series'

interface Asked {
  series: readonly number[]
  from: number
  to: number
  each: Window
  how: RollupWay
}

/** What became of series over windows of time, by the clock of the site. */
export const windowsOfSeries = async ({ series, from, to, each, how }: Asked): Promise<SeriesWindows[]> => {
  const facts = await seriesFacts(series)
  const { zone } = await database().selectFrom('site').select('zone').executeTakeFirstOrThrow()
  const borders = windowsBetween(each, from, to, zone || ownZone(), mostWindows)
  if (!borders) throw new Refusal(fault('history.too-many-windows', { most: mostWindows }))
  const windows = facts.map(async ({ names: _names, ...known }) => {
    const intervals = await historyReader().intervals(known.id, borders)
    return { ...known, windows: intervals.map((one) => ({ from: one.from, to: one.to, ...rolledUp(how, one.whole, one.until) })) }
  })
  return Promise.all(windows)
}
