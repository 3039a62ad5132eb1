import { sql } from 'kysely'
import { afterEach, expect, it } from 'vitest'
import { recordingContract } from '#core/history/settings'
import { quality } from '#core/tags/quality'
import { bridgeDraft, bridgeSite, memoryTag } from '../support/bridgeSite'
import { startArm } from '../support/arm'
import { closeAll, linkTo, metersFor, powerTag, type Closing } from '../support/engineOn'
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
