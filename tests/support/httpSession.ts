import { httpSettings, type HttpSettings } from '#core/http/settings'
import { quality } from '#core/tags/quality'
import { HttpLinkSession } from '#engine/links/http/session'
import { TagTable } from '#engine/table/tagTable'
import { Wire } from '#engine/wire/wire'
import { Meters } from '#core/statistics/meters'
import { noArrivals } from './arrivals'
import type { Closing } from './engineOn'
import { memoryJournal } from './modbusSession'
import { pointsIn, type Wanted } from './points'
import { testSecurity } from './security'
import { until } from './until'

export const httpSettingsFor = (base: string, more: object = {}): HttpSettings =>
  httpSettings.parse({ base, interval: 100, patience: { connect: 500, answer: 500, retryFirst: 100, retryMost: 200 }, ...more })

/** A session of a link to a web API with a tag table of its own, and values by the place of the point. */
export const openHttp = async (closing: Closing, settings: HttpSettings, wanted: Wanted[]) => {
  const [table, journal] = [new TagTable(), memoryJournal()]
  const session = new HttpLinkSession({
    ...{ name: 'Tariffs', settings, table, journal, wire: new Wire(), security: await testSecurity() },
    ...{ roots: () => [], meters: new Meters(), arrivals: noArrivals() },
  })
  closing.unshift(() => session.close())
  const points = pointsIn(table, wanted)
  session.setPoints(points, [])
  const at = (index: number) => points[index]!.handle
  return {
    ...{ session, table, journal, points, settings },
    value: (index: number) => table.values[at(index)],
    quality: (index: number) => table.quality[at(index)]!,
    sourceTime: (index: number) => table.sourceTime[at(index)]!,
    write: (index: number, value: number) => session.write(at(index), value),
    good: (index = 0) => until(() => table.quality[at(index)] === quality.Good),
  }
}
