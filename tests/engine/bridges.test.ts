import { afterEach, describe, expect, it } from 'vitest'
import { quality } from '#core/tags/quality'
import { startArm } from '../support/arm'
import { bridgeDraft, bridgeSite, memoryTag, otherDatabase } from '../support/bridgeSite'
import { closeAll, metersFor, type Closing } from '../support/engineOn'
import { startMariadb } from '../support/mariadb'
import { startBroker } from '../support/mqttBroker'
import { armNode, opcuaSettingsFor } from '../support/opcuaSession'
import { until } from '../support/until'

/** Bridges between real receivers and sources, each on its own socket. */

const closing: Closing = []
afterEach(() => closeAll(closing))

const brokerFor = async () => {
  const broker = await startBroker()
  closing.push(() => broker.stop())
  return broker
}

const mqttLink = (port: number, name = 'Broker') => ({
  ...{ name, kind: 'mqtt' },
  settings: { host: '127.0.0.1', port, version: '3.1.1', patience: { retryFirst: 100, retryMost: 200, answer: 1000 } },
})

describe('a bridge', () => {
  it('writes a line with two values and the time when one of two OPC UA tags moves by more than 0.1', async () => {
    const arm = await startArm()
    closing.push(() => arm.stop())
    const site = await bridgeSite(closing)
    const armLink = await site.link({ name: 'Arm', kind: 'opcua', settings: opcuaSettingsFor(arm.port, { policy: 'None', mode: 'None' }) })
    const files = await site.link({ name: 'Files', kind: 'files', settings: { folder: 'arm' } })
    const point = (path: string, node: string) => ({
      path,
      type: 'float64',
      source: { kind: 'point', linkId: armLink, address: armNode(node) },
    })
    await site.tags([point('arm/reach', 'Plug.Position.Extension'), point('arm/height', 'Plug.Position.Elevation')])
    await until(() => site.qualityAt('arm/reach') === quality.Good && site.qualityAt('arm/height') === quality.Good)
    const id = await site.bridge(
      bridgeDraft({
        when: [
          { kind: 'change', tag: 'arm/reach', by: 0.1 },
          { kind: 'change', tag: 'arm/height', by: 0.1 },
        ],
        take: [
          { name: 'reach', kind: 'tag', path: 'arm/reach' },
          { name: 'height', kind: 'tag', path: 'arm/height' },
        ],
        send: [
          {
            ...{ kind: 'file', number: 1, linkId: files, name: 'arm.csv' },
            fields: [
              { into: 'time', from: 'time' },
              { into: 'reach', from: 'reach' },
              { into: 'height', from: 'round(height, 2)' },
            ],
          },
        ],
      }),
    )
    const reach = Number(site.value('arm/reach'))
    arm.arm.state.extension = reach + 0.05
    arm.arm.state.extension = reach + 0.5
    await until(() => site.status(id).destinations[0]!.delivered > 0)
    const [head, line] = site.file('arm/arm.csv').split('\r\n')
    expect(head).toBe('time,reach,height')
    expect(line).toMatch(/^\d{4}-\d\d-\d\dT\d\d:\d\d:\d\d\.\d{3}Z,/)
    expect(Number(line!.split(',')[1])).toBeCloseTo(reach + 0.5, 6)
  })

  it('puts what a message says into a table that it created itself, of both kinds of databases', async () => {
    const broker = await brokerFor()
    const maria = await startMariadb()
    closing.push(() => maria.stop())
    const book = await otherDatabase(closing)
    const site = await bridgeSite(closing)
    const lamps = await site.link(mqttLink(broker.port))
    for (const { settings, query } of [book, maria]) {
      const database = await site.link({ name: `Book ${settings.dialect}`, kind: 'sql', settings })
      await until(() => site.engine.link(database)!.status().flow === 'flowing')
      const store = site.engine.link(database)!.receiver()
      if (!('takes' in store) || store.takes !== 'table') throw new Error('no table')
      const types = settings.dialect === 'mysql' ? ['datetime(3)', 'double', 'varchar(40)'] : ['timestamptz', 'double precision', 'text']
      const columns = ['at', 'lux', 'lamp'].map((name, i) => ({ name, type: types[i]!, nullable: true }))
      const { createStatements } = await import('#core/sql/createTable')
      await store.run(
        createStatements({ schema: '', table: 'light', columns, key: [], parted: '', partedPer: 'month', indexed: 'at' }, store.dialect),
      )
      const id = await site.bridge(
        bridgeDraft({
          when: [{ kind: 'message', linkId: lamps, filter: 'quay/+/light' }],
          take: [{ name: 'lux', kind: 'member', path: '$.lux' }],
          send: [
            {
              ...{ kind: 'table', number: 1, linkId: database, table: 'light' },
              fields: [
                { into: 'at', from: 'time' },
                { into: 'lux', from: 'lux' },
                { into: 'lamp', from: 'part2' },
              ],
            },
          ],
        }),
      )
      await until(async () => {
        await broker.publish('quay/lamp3/light', '{"lux":12.25}')
        return site.status(id).destinations[0]!.delivered > 0
      })
      const [row] = await query('select at, lux, lamp from light limit 1')
      expect(row).toMatchObject({ lux: 12.25, lamp: 'lamp3' })
      expect(Math.abs(new Date(row!.at as string | Date).getTime() - Date.now())).toBeLessThan(20_000_000)
      await site.change(async (editor) => editor.remove('bridge', await editor.db.selectFrom('bridge').selectAll().execute()))
    }
  })

  it('sends a tag to a topic, from which a second link takes it as a tag; both agree', async () => {
    const broker = await brokerFor()
    const site = await bridgeSite(closing)
    const out = await site.link(mqttLink(broker.port, 'Out'))
    const back = await site.link(mqttLink(broker.port, 'Back'))
    await site.tags([
      memoryTag('berth/2/power', 1480.5),
      {
        path: 'office/power',
        type: 'float64',
        source: { kind: 'point', linkId: back, address: 'berth/2/power', options: { path: '$.value' } },
      },
    ])
    await until(() => site.engine.link(back)!.status().connections === 1)
    await site.bridge(
      bridgeDraft({
        when: [{ kind: 'change', tag: 'berth/*/power' }],
        send: [
          {
            ...{ kind: 'topic', number: 1, linkId: out, topic: 'berth/{part2}/power', retain: true },
            fields: [
              { into: 'value', from: 'value' },
              { into: 'at', from: 'time' },
            ],
          },
        ],
      }),
    )
    await site.write('berth/2/power', 1502.25)
    await until(() => site.value('office/power') === 1502.25)
    await site.write('berth/2/power', 17)
    await until(() => site.value('office/power') === 17)
  })

  it('runs by hand from the moment it is switched on: before its ways are open, that waits for them', async () => {
    const site = await bridgeSite(closing)
    const link = await site.link(mqttLink((await brokerFor()).port, 'Out'))
    await site.tags([memoryTag('berth/2/power', 5)])
    const send = [{ kind: 'topic', number: 1, linkId: link, topic: 'power', fields: [{ into: 'v', from: 'v' }] }]
    const id = await site.bridge(bridgeDraft({ take: [{ name: 'v', kind: 'tag', path: 'berth/2/power' }], send }))
    const runner = site.engine.bridges.get(id)!
    const bridge = site.engine.wanted.things.bridge.get(id)!
    runner.update({ ...bridge, on: false })
    expect(await runner.runByHand()).toBeNull()
    runner.update(bridge)
    expect(await runner.runByHand()).toBeGreaterThan(0)
    await until(() => site.status(id).destinations[0]?.delivered === 1)
  })

  it('writes a tag to a register on another link every 10 ms', async () => {
    const meters = await metersFor(closing)
    const site = await bridgeSite(closing)
    const gateway = await site.link({
      ...{ name: 'Gateway', kind: 'modbus-tcp' },
      settings: { host: '127.0.0.1', port: meters.port, unit: 11, interval: 20, order: 'CDAB' },
    })
    await site.tags([
      memoryTag('arm/position', 3),
      { path: 'gateway/arm', type: 'uint16', access: 'readwrite', source: { kind: 'point', linkId: gateway, address: 'holding/120' } },
    ])
    const id = await site.bridge(
      bridgeDraft({
        when: [{ kind: 'period', every: 10 }],
        take: [{ name: 'position', kind: 'tag', path: 'arm/position' }],
        send: [{ kind: 'tags', number: 1, fields: [{ into: 'gateway/arm', from: 'position * 10' }], away: { keep: 'latest' } }],
      }),
    )
    await site.write('arm/position', 4.26)
    await until(() => site.value('gateway/arm') === 43)
    const before = site.status(id).runs
    const began = Date.now()
    await until(() => site.status(id).runs >= before + 50)
    expect(Date.now() - began).toBeGreaterThan(400)
    expect(site.engine.bridges.runs(id)!.at(-1)!.inputs[0]).toMatchObject({ name: 'position', good: true })
  })

  it('that sets itself off without end is stopped with a fault, and others go on; two that keep each other the same come to rest', async () => {
    const site = await bridgeSite(closing)
    await site.tags(['up/a', 'up/b', 'same/a', 'same/b', 'other/a', 'other/b'].map((path) => memoryTag(path, 0)))
    const copy = (from: string, to: string, formula = 'value') =>
      site.bridge(
        bridgeDraft({
          when: [{ kind: 'change', tag: from }],
          send: [{ ...{ kind: 'tags', number: 1, away: { keep: 'latest' } }, fields: [{ into: to, from: formula }] }],
        }),
      )
    const up = [await copy('up/a', 'up/b', 'value + 1'), await copy('up/b', 'up/a', 'value + 1')]
    const same = [await copy('same/a', 'same/b'), await copy('same/b', 'same/a')]
    await copy('other/a', 'other/b')
    await site.write('same/a', 7)
    await until(() => site.value('same/b') === 7)
    await site.write('up/a', 1)
    await until(() => up.some((id) => site.status(id).fault?.code === 'bridge.loop'))
    const last = site.value('up/a')
    await site.write('other/a', 3)
    await until(() => site.value('other/b') === 3)
    expect(site.value('up/a')).toBe(last)
    expect(same.map((id) => site.status(id).flow)).toEqual(['flowing', 'flowing'])
    expect(site.journal.entries.map(({ text }) => text)).toContainEqual(expect.stringMatching(/set itself off again and again by up\/[ab]/))
  })
})
