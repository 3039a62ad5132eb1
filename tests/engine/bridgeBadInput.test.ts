import { rmSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { afterEach, describe, expect, it } from 'vitest'
import { bridgeContract } from '#core/bridges/settings'
import { bridgeProblems } from '#core/bridges/problems'
import { bridgeDraft, bridgeSite, memoryTag, otherDatabase } from '../support/bridgeSite'
import { closeAll, stateFolderFor, type Closing } from '../support/engineOn'
import { startBroker } from '../support/mqttBroker'
import { until } from '../support/until'

/** What goes wrong with one message, row or file is told there, and the next one goes its way. */

const closing: Closing = []
afterEach(() => closeAll(closing))

/** A site that hears messages and writes what is at a path of them into a table. */
const rowsFrom = async (path: string, type: string, more: object = {}) => {
  const broker = await startBroker()
  closing.push(() => broker.stop())
  const book = await otherDatabase(closing)
  await book.query(`create table taken (v ${type}, at timestamptz)`)
  const site = await bridgeSite(closing)
  const settings = { host: '127.0.0.1', port: broker.port, version: '3.1.1', patience: { retryFirst: 100, retryMost: 200 } }
  const quay = await site.link({ name: 'Quay', kind: 'mqtt', settings })
  const database = await site.link({ name: 'Book', kind: 'sql', settings: book.settings })
  const id = await site.bridge(
    bridgeDraft({
      when: [{ kind: 'message', linkId: quay, filter: 'quay/#' }],
      take: [{ name: 'v', kind: 'member', path }],
      send: [
        {
          ...{ kind: 'table', number: 1, linkId: database, table: 'taken' },
          fields: [
            { into: 'v', from: 'v' },
            { into: 'at', from: 'time' },
          ],
        },
      ],
      ...more,
    }),
  )
  await until(() => site.engine.link(quay)!.status().connections === 1)
  await until(() => broker.broker.connectedClients === 1)
  const runs = () => site.engine.bridges.runs(id)!
  const values = async () => (await book.query('select v from taken order by ctid')).map(({ v }) => v)
  /** What becomes of a message: its run, once that is decided. */
  const after = async (payload: string | Buffer) => {
    const before = runs().at(-1)?.number ?? 0
    await broker.publish('quay/a', payload, { qos: 1 })
    return until(
      () => runs().at(-1),
      (run) => run !== undefined && run.number > before && run.outcome !== 'under way',
    )
  }
  return { site, id, broker, book, after, values, runs }
}

describe('a message', () => {
  it.each<[string, string, string | Buffer, string]>([
    ['a path that matches nothing', '$.b', '{"v":1}', 'the message has nothing at $.b'],
    ['a path that matches many', '$.v[*]', '{"v":[1,2]}', '$.v[*] gives 2 values'],
    ['no UTF-8', '$.v', Buffer.from([0x7b, 0xff, 0x7d]), 'no text in UTF-8'],
    ['two values under one name', '$.v', '{"v":1,"v":2}', 'the name “v” stands twice'],
    ['a number beyond a double', '$.v', '{"v":1e999}', '1e999 is beyond'],
    ['no JSON', '$.v', '{"v":', 'it is no JSON'],
    ['a payload beyond what is looked into', '$.v', Buffer.alloc(5 * 1024 * 1024, 0x20), 'at most 4,194,304 are looked into'],
  ])('with %s is named at its run, and the next one arrives', async (_what, path, payload, why) => {
    const { after, values } = await rowsFrom(path, 'double precision')
    expect((await after(payload))!.fault!.what).toContain(why)
    await after(path === '$.b' ? '{"b":7}' : path === '$.v[*]' ? '{"v":[7]}' : '{"v":7}')
    expect(await values()).toEqual([7])
  })

  it.each<[string, string, string]>([
    ['ISO 8601 with a zone', '"2026-11-26T15:06:45+01:00"', '2026-11-26T14:06:45.000Z'],
    ['Unix seconds', '1764165600', '2025-11-26T14:00:00.000Z'],
    ['Unix milliseconds', '1764165600123', '2025-11-26T14:00:00.123Z'],
  ])('with a time as %s becomes that time', async (_what, text, expected) => {
    const { after, values } = await rowsFrom('$.v', 'timestamptz')
    await after(`{"v":${text}}`)
    expect(((await values())[0] as Date).toISOString()).toBe(expected)
  })

  it('with SQL in a value is a value', async () => {
    const { after, values, book } = await rowsFrom('$.v', 'text')
    const sql = "'); drop table taken; --"
    await after(JSON.stringify({ v: sql }))
    await after(JSON.stringify({ v: 'a NUL \u0000 in it' }))
    await after(JSON.stringify({ v: 'after' }))
    expect(await values()).toEqual([sql, 'after'])
    expect(await book.query('select from taken')).toHaveLength(2)
  })
})

describe('a table that changes while a bridge runs', () => {
  it('with a column that is renamed keeps records until the column is back', async () => {
    const { site, id, after, book, values, broker } = await rowsFrom('$.v', 'integer')
    await after('{"v":1}')
    await book.query('alter table taken rename column v to was')
    await broker.publish('quay/a', '{"v":2}', { qos: 1 })
    const why = await until(() => site.status(id).destinations[0]!.fault)
    expect(why!.what).toMatch(/no such column/)
    await book.query('alter table taken rename column was to v')
    await until(async () => (await values()).length === 2)
    expect(await values()).toEqual([1, 2])
  })
})

describe('what stands on a sheet', () => {
  const known = { link: () => ({ name: 'Any', kind: 'mqtt' as const, settings: {}, nodeId: null }), outlet: () => undefined }
  const topicTo = (topic: string) => ({
    name: 'b',
    send: [{ kind: 'topic', number: 1, linkId: 1, topic, fields: [{ into: 'v', from: '1' }] }],
  })
  const messages = (draft: object) => {
    const read = bridgeContract.safeParse(draft)
    return read.success
      ? bridgeProblems(read.data, known)
      : read.error.issues.map(({ path, message }) => ({ path: path.join('.'), message }))
  }
  it.each([
    ['a topic of 65,536 bytes', topicTo('x'.repeat(65_536)), 'send.0.topic', 'at most 400'],
    ['a topic with a wildcard', topicTo('quay/+/a'), 'send.0.topic', 'no “+”'],
    [
      'a filter with a wildcard within a level',
      { ...topicTo('a'), when: [{ kind: 'message', linkId: 1, filter: 'a/b+' }] },
      'when.0.filter',
      '+',
    ],
    ['a filter with NUL', { ...topicTo('a'), when: [{ kind: 'message', linkId: 1, filter: 'a\0b' }] }, 'when.0.filter', 'NUL'],
    ['an expression without an end', topicTo('{' + '('.repeat(300) + '1'), 'send.0.topic', '“}”'],
    [
      'an expression that is nested too deep',
      { ...topicTo('a'), send: [{ ...topicTo('a').send[0], fields: [{ into: 'v', from: '('.repeat(1990) }] }] },
      'send.0.fields.0.from',
      '',
    ],
  ])('%s is named at its field', (_what, draft, path, message) =>
    expect(messages(draft)).toContainEqual({ path, message: expect.stringContaining(message) as string }),
  )
  it('a topic that only comes about while it runs is refused there, when it is none', async () => {
    const broker = await startBroker()
    closing.push(() => broker.stop())
    const site = await bridgeSite(closing)
    const link = await site.link({ name: 'Quay', kind: 'mqtt', settings: { host: '127.0.0.1', port: broker.port, version: '3.1.1' } })
    await site.tags([memoryTag('name', 'ok', 'string')])
    await until(() => site.engine.link(link)!.status().connections === 1)
    const id = await site.bridge(
      bridgeDraft({
        take: [{ name: 'name', kind: 'tag', path: 'name' }],
        send: [{ kind: 'topic', number: 1, linkId: link, topic: 'to/{name}', form: 'plain', fields: [{ into: 'v', from: 'name' }] }],
      }),
    )
    for (const name of ['a+b', 'nul\0', 'x'.repeat(65_536), 'fine']) {
      await site.write('name', name)
      await site.engine.bridges.get(id)!.runByHand()
    }
    await until(() => site.status(id).destinations[0]!.delivered === 1 && site.status(id).destinations[0]!.refused === 3)
  })
  it('an expression that would eat memory or time ends with a reason', async () => {
    const site = await bridgeSite(closing)
    await site.tags([memoryTag('to', 0), memoryTag('text', 'x'.repeat(900), 'string')])
    const id = await site.bridge(
      bridgeDraft({
        take: [{ name: 'a', kind: 'tag', path: 'text' }],
        send: [
          { kind: 'tags', number: 1, fields: [{ into: 'to', from: `length(${'concat(a, a, a, a, '.repeat(20)}a${')'.repeat(20)})` }] },
        ],
      }),
    )
    await site.engine.bridges.get(id)!.runByHand()
    await until(() => site.status(id).failed === 1)
    expect(site.engine.bridges.runs(id)!.at(-1)!.fault!.what).toContain('text grows longer than 1000 characters')
  })
})

describe('a file that is written to', () => {
  it('never lies outside its folder, and a disk that is full keeps what comes', async () => {
    const state = stateFolderFor(closing)
    const site = await bridgeSite(closing, undefined, state)
    const files = await site.link({ name: 'Files', kind: 'files', settings: { folder: 'out' } })
    await site.tags([memoryTag('name', '../../escaped', 'string')])
    const id = await site.bridge(
      bridgeDraft({
        take: [{ name: 'name', kind: 'tag', path: 'name' }],
        send: [{ kind: 'file', number: 1, linkId: files, name: '{name}.csv', fields: [{ into: 'v', from: 'name' }] }],
      }),
    )
    await site.engine.bridges.get(id)!.runByHand()
    await until(() => site.status(id).destinations[0]!.refused === 1)
    expect(site.engine.bridges.runs(id)!.at(-1)!.fault!.what).toContain('no “..”')
    await site.write('name', 'fine')
    await site.engine.bridges.get(id)!.runByHand()
    await until(() => site.status(id).destinations[0]!.delivered === 1)
    await site.write('name', 'full')
    // as a disk without room: nothing can be put there any more
    const folder = join(state, 'files', 'out')
    rmSync(folder, { recursive: true })
    writeFileSync(folder, '')
    await site.engine.bridges.get(id)!.runByHand()
    await until(() => site.status(id).destinations[0]!.kept > 0)
  })
})
