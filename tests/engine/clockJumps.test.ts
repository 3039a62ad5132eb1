import { sql } from 'kysely'
import { afterEach, expect, it } from 'vitest'
import { recordingContract } from '#core/history/settings'
import { quality } from '#core/tags/quality'
import { bridgeDraft, bridgeSite, memoryTag } from '../support/bridgeSite'
import { startArm } from '../support/arm'
import { changeConfiguration } from '#db/configuration'
import { HistoryReader } from '#db/history/reader'
import { tagDraft } from '#shared/tags'
import { closeAll, databaseFor, engineOn, linkTo, metersFor, powerTag, type Closing } from '../support/engineOn'
import { startBroker } from '../support/mqttBroker'
import { armNode, opcuaSettingsFor } from '../support/opcuaSession'
import { clockIsRight, shiftClock } from '../support/shiftClock'
import { until } from '../support/until'

/** Somebody sets the clock of the machine while everything runs. */

const closing: Closing = []
afterEach(async () => {
  clockIsRight()
  await closeAll(closing)
})

const [second, hour] = [1000, 3_600_000]
const year = 365 * 24 * hour

/** Links, a signal, schedules and a record, all of which have something to do every second at the latest. */
const busySite = async () => {
  const meters = await metersFor(closing)
  const arm = await startArm()
  closing.push(() => arm.stop())
  const broker = await startBroker()
  closing.push(() => broker.stop())
  const site = await bridgeSite(closing)
  const meterLink = await site.link(linkTo(meters.port) as unknown as Record<string, unknown>)
  const armLink = await site.link({ name: 'Arm', kind: 'opcua', settings: opcuaSettingsFor(arm.port, { policy: 'None', mode: 'None' }) })
  const quay = await site.link({
    ...{ name: 'Quay', kind: 'mqtt' },
    settings: { host: '127.0.0.1', port: broker.port, version: '3.1.1', patience: { retryFirst: 100, retryMost: 200, answer: 1000 } },
  })
  await site.tags([
    powerTag(meterLink, 'berth/1/power'),
    { path: 'arm/reach', type: 'float64', source: { kind: 'point', linkId: armLink, address: armNode('Plug.Position.Extension') } },
    { path: 'wave', type: 'float64', source: { kind: 'signal', shape: 'ramp', low: 0, high: 1000, period: 1_000_000, every: 100 } },
    memoryTag('held', 0),
  ])
  await site.change((editor) => editor.insert('recording', [recordingContract.parse({ pattern: 'wave', how: { kind: 'change' } })]))
  const to = (topic: string) => ({
    send: [{ kind: 'topic', number: 1, linkId: quay, topic, fields: [{ into: 'v', from: 'wave' }] }],
    take: [{ name: 'wave', kind: 'tag', path: 'wave' }],
  })
  const bridges = [
    await site.bridge(bridgeDraft({ name: 'By schedule', when: [{ kind: 'schedule', cron: '* * * * * *', zone: 'UTC' }], ...to('a') })),
    await site.bridge(bridgeDraft({ name: 'By period', when: [{ kind: 'period', every: 500 }], ...to('b') })),
  ]
  await until(() => site.qualityAt('berth/1/power') === quality.Good && site.qualityAt('arm/reach') === quality.Good)
  const delivered = (id: number) => site.status(id).destinations[0]!.delivered
  await until(() => bridges.every((id) => delivered(id) > 1))
  return { site, meters, arm, bridges, delivered, meterLink, armLink }
}

it.each([
  ['an hour ahead', hour],
  ['an hour back', -hour],
  ['a year ahead', year],
  ['a year back', -year],
])('goes on as before where the clock is set %s', async (_, by) => {
  const { site, meters, arm, bridges, delivered, meterLink, armLink } = await busySite()
  const connections = () => [meterLink, armLink].map((id) => site.engine.link(id)!.statistics().connections)
  const before = { connections: connections(), runs: bridges.map(delivered) }
  shiftClock(by)
  const asked = () => site.engine.link(meterLink)!.status().requests
  const requests = asked()
  await until(() => asked() > requests + 20, Boolean, 10)
  // a schedule goes on, each second once, and makes up for nothing
  await until(
    () => bridges.map((id, i) => [delivered(id) - before.runs[i]!, site.status(id).sentence]),
    (all) => all.every(([runs]) => Number(runs) >= 3),
    10,
  )
  expect(bridges.every((id, i) => delivered(id) < before.runs[i]! + 100)).toBe(true)
  const reach = Number(site.value('arm/reach'))
  arm.arm.state.extension = reach + 0.5
  await until(
    () => Number(site.value('arm/reach')) - reach,
    (moved) => moved > 0.3,
    10,
  )
  expect(site.qualityAt('berth/1/power')).toBe(quality.Good)
  expect(connections()).toEqual(before.connections)
  expect(site.engine.status().links.map(({ flow }) => flow)).toEqual(site.engine.status().links.map(() => 'flowing'))
  // what comes from then on has the times of then
  const from = Date.now()
  await until(
    async () =>
      (
        await sql`select 1 from history where path = 'wave' and at > ${new Date(from)} and at < ${new Date(from + 60 * second)} limit 2`.execute(
          site.base.db,
        )
      ).rows.length > 1,
    Boolean,
    15,
  )
  meters.gateway.meters.forEach(({ fault }) => (fault.fault = 'silence'))
  await until(() => site.qualityAt('berth/1/power') !== quality.Good, Boolean, 10)
})

it('makes minutes and hours by the clock that it has, also once it was a year ahead for a while, and then set back by two hours', async () => {
  const database = await databaseFor(closing)
  const { result: tag } = await changeConfiguration(database.db, 'test', 'made', async (editor) => {
    await editor.insert('recording', [recordingContract.parse({ pattern: 'held', how: { kind: 'change' } })])
    return (await editor.insert('tag', [tagDraft.parse(memoryTag('held', null))]))[0]!
  })
  const { engine } = await engineOn(closing, database)
  const handle = engine.tags.handleOf(tag.id)!
  const tell = async (value: number) => {
    engine.table.set(handle, value, quality.Good, Date.now())
    engine.table.flush()
    await new Promise((resolve) => setTimeout(resolve, 600))
  }
  // so far ahead that minutes and hours are closed at once
  const steps = [0, year, 61 * second, -year, 61 * second, 2 * hour, 61 * second, -2 * hour, 61 * second, hour, hour]
  for (const [i, by] of steps.entries()) {
    shiftClock(by)
    await tell(i * 10 + 1)
    await tell(i * 10 + 2)
  }
  const made = async (tier: 'minute' | 'hour') =>
    (
      await sql<{ at: Date; count: number; sum: number }>`
        select date_trunc(${tier}, at, 'UTC') as at, count(*)::int as count, sum(number)::float8 as sum
        from history where path = 'held' and number is not null group by 1 order by 1`.execute(database.db)
    ).rows.map(({ at, count, sum }) => [at.getTime(), count, sum])
  const reader = new HistoryReader(database.url)
  closing.push(() => reader.close())
  const kept = async (tier: 'minute' | 'hour') =>
    (await reader.buckets(tier, tag.id, Date.now() - 400 * 24 * hour, Date.now() + 2 * year, 1000))
      .filter(({ count }) => count > 0)
      .map(({ at, count, sum }) => [at, count, sum])
  const over = (end: number) => (all: (number | undefined)[][]) => all.filter(([at]) => at! < end && at! > Date.now() - 24 * hour)
  // of all hours that the clock came by, but for the one that it is in
  const end = Math.floor(Date.now() / hour) * hour
  await until(
    async () => [
      over(end)(await kept('minute')),
      over(end)(await made('minute')),
      over(end)(await kept('hour')),
      over(end)(await made('hour')),
    ],
    ([minutes, samples, hours, all]) =>
      JSON.stringify(minutes) === JSON.stringify(samples) && JSON.stringify(hours) === JSON.stringify(all),
    30,
  )
  expect(over(end)(await kept('hour')).length).toBeGreaterThan(1)
})
