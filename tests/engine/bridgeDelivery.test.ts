import { mkdirSync, readFileSync, renameSync, symlinkSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { afterEach, describe, expect, it } from 'vitest'
import { listAside, settleAside, type Asides } from '#engine/bridges/aside'
import { bridgeDraft, bridgeSite, memoryTag, otherDatabase } from '../support/bridgeSite'
import { closeAll, databaseFor, stateFolderFor, type Closing } from '../support/engineOn'
import { startMariadb } from '../support/mariadb'
import { startBroker } from '../support/mqttBroker'
import { until } from '../support/until'

/** What becomes of records while their receiver is away, refuses them, or the engine goes. */

const closing: Closing = []
afterEach(() => closeAll(closing))

const mqttLink = (port: number) => ({
  ...{ name: 'Broker', kind: 'mqtt' },
  settings: { host: '127.0.0.1', port, version: '3.1.1', patience: { retryFirst: 100, retryMost: 200, answer: 1000 } },
})
const count = [{ name: 'count', kind: 'tag', path: 'count' }]
const rows = (linkId: number, more: object = {}) => ({
  ...{ kind: 'table', number: 1, linkId, table: 'counts', fields: [{ into: 'n', from: 'count' }] },
  ...more,
})
const onCount = [{ kind: 'change', tag: 'count' }]

/** A site with a counter and a database that holds a table for it. */
const countingSite = async (table = 'create table counts (n integer primary key)') => {
  const book = await otherDatabase(closing)
  await book.query(table)
  const site = await bridgeSite(closing)
  const database = await site.link({ name: 'Book', kind: 'sql', settings: book.settings })
  await site.tags([memoryTag('count', 0)])
  const counts = async () => (await book.query('select n from counts order by ctid')).map(({ n }) => n)
  const up = async (from: number, to: number) => {
    for (let n = from; n <= to; n++) await site.write('count', n)
  }
  return { ...site, book, database, counts, up }
}
const range = (from: number, to: number) => Array.from({ length: to - from + 1 }, (_, i) => from + i)

describe('while a receiver is away', () => {
  it('all records are kept in order, through a restart of the engine, and arrive once it is back', async () => {
    const base = await databaseFor(closing)
    const folder = stateFolderFor(closing)
    const book = await otherDatabase(closing)
    await book.query('create table counts_later (n integer)')
    const first: Closing = []
    const site = await bridgeSite(first, base, folder)
    const database = await site.link({ name: 'Book', kind: 'sql', settings: book.settings })
    await site.tags([memoryTag('count', 0)])
    const id = await site.bridge(bridgeDraft({ when: onCount, take: count, send: [rows(database)] }))
    for (const n of range(1, 20)) await site.write('count', n)
    await until(() => site.status(id).destinations[0]!.kept === 20 && site.status(id).fault !== null)
    expect(site.status(id)).toMatchObject({ flow: 'broken', fault: { code: 'sql.no-table' } })
    await closeAll(first)

    const after = await bridgeSite(closing, base, folder)
    await until(() => after.status(id)?.destinations[0]?.kept === 20)
    await after.write('count', 21)
    await book.query('alter table counts_later rename to counts')
    await until(() => after.status(id).destinations[0]!.delivered === 21)
    expect((await book.query('select n from counts order by ctid')).map(({ n }) => n)).toEqual(range(1, 21))
    expect(after.status(id)).toMatchObject({ flow: 'flowing', destinations: [{ kept: 0, dropped: 0 }] })
  })

  it('only the latest is kept where that was chosen, and none where that was', async () => {
    const broker = await startBroker()
    const heard: string[] = []
    const site = await bridgeSite(closing)
    const link = await site.link(mqttLink(broker.port))
    await site.tags([memoryTag('count', 0)])
    const to = (number: number, keep: string) => ({
      ...{ kind: 'topic', number, linkId: link, topic: keep, form: 'plain', away: { keep } },
      fields: [{ into: 'n', from: 'count' }],
    })
    const id = await site.bridge(bridgeDraft({ when: onCount, take: count, send: [to(1, 'latest'), to(2, 'none')] }))
    await until(() => site.engine.link(link)!.status().connections === 1)
    await site.write('count', 1)
    await until(() => site.status(id).destinations.every(({ delivered }) => delivered === 1))
    await broker.stop()
    for (const n of range(2, 6)) await site.write('count', n)
    await until(() => site.status(id).destinations.every(({ fault }) => fault !== null))
    for (const n of range(7, 9)) await site.write('count', n)
    const again = await startBroker({}, broker.port)
    closing.unshift(() => again.stop())
    again.broker.subscribe(
      '#',
      (packet, done) => (heard.push(`${packet.topic} ${packet.payload.toString()}`), done()),
      () => {},
    )
    await until(() => heard.includes('latest 9'))
    expect(heard.filter((one) => /^(latest|none)/.test(one))).toEqual(['latest 9'])
    expect(site.status(id).destinations[1]!.dropped).toBeGreaterThan(2)
  })

  it('the oldest give way at the limit, counted and told', async () => {
    const site = await countingSite('create table elsewhere (n integer)')
    const id = await site.bridge(
      bridgeDraft({
        ...{ when: onCount, take: [...count, { name: 'long', kind: 'constant', value: 'y'.repeat(1900) }] },
        send: [
          rows(site.database, {
            fields: Array.from({ length: 60 }, (_, i) => ({ into: `c${i}`, from: 'long' })),
            away: { keep: 'all', most: 1 },
          }),
        ],
      }),
    )
    await site.up(1, 12)
    await until(
      () => site.status(id).destinations[0]!,
      ({ kept, dropped }) => dropped > 0 && kept + dropped === 12,
    )
    const { keptBytes } = site.status(id).destinations[0]!
    expect(keptBytes).toBeLessThanOrEqual(1_000_000)
    expect(site.journal.entries.some(({ text }) => text.includes('more than 1 MB were kept'))).toBe(true)
  })
})

describe('what a receiver refuses', () => {
  it('goes aside alone, with its reason, and is sent again', async () => {
    const site = await countingSite('create table counts (n integer check (n % 10 <> 3))')
    const id = await site.bridge(bridgeDraft({ when: onCount, take: count, send: [rows(site.database)] }))
    await site.up(1, 25)
    await until(() => site.status(id).destinations[0]!.delivered === 22)
    expect(await site.counts()).toEqual(range(1, 25).filter((n) => n % 10 !== 3))
    const aside = <T>(work: (asides: Asides) => Promise<T>) => site.engine.bridges.get(id)!.laidAside(work)
    const refused = await aside(listAside)
    expect(refused.map(({ fields, fault }) => [fields[0]!.text, fault.code])).toEqual([3, 13, 23].map((n) => [String(n), 'sql.statement']))
    await site.book.query('alter table counts drop constraint counts_n_check')
    expect(await aside((all) => settleAside(all, [refused[0]!.key], 'send'))).toEqual({ settled: 1, unfit: 0 })
    expect(await aside((all) => settleAside(all, [refused[1]!.key], 'drop'))).toEqual({ settled: 1, unfit: 0 })
    await until(async () => (await site.counts()).includes(3))
    expect((await aside(listAside)).map(({ key }) => key)).toEqual([refused[2]!.key])
    expect(site.status(id)).toMatchObject({ flow: 'late', sentence: '1 record refused and laid aside' })
  })

  it('is looked at and dropped while its bridge is off, and not sent', async () => {
    const site = await countingSite('create table counts (n integer check (n > 10))')
    const draft = bridgeDraft({ when: onCount, take: count, send: [rows(site.database)] })
    const id = await site.bridge(draft)
    await site.up(1, 2)
    await until(() => site.status(id).destinations[0]!.aside === 2)
    await site.alter(id, { ...draft, on: false })
    expect(site.status(id).flow).toBe('off')
    const aside = <T>(work: (asides: Asides) => Promise<T>) => site.engine.bridges.get(id)!.laidAside(work)
    const [first, second] = await aside(listAside)
    await expect(aside((all) => settleAside(all, [first!.key], 'send'))).rejects.toMatchObject({ code: 'bridge.off' })
    expect(await aside((all) => settleAside(all, [first!.key], 'drop'))).toEqual({ settled: 1, unfit: 0 })
    await site.alter(id, draft)
    await until(() => site.status(id).destinations[0]?.aside === 1)
    expect((await aside(listAside)).map(({ key }) => key)).toEqual([second!.key])
  })

  it('is told before it leaves where it does not fit', async () => {
    const site = await countingSite('create table counts (n smallint)')
    const id = await site.bridge(bridgeDraft({ when: onCount, take: count, send: [rows(site.database)] }))
    await site.write('count', 70_000)
    await site.write('count', 7.6)
    await until(async () => (await site.counts()).includes(8))
    expect(site.status(id).destinations[0]).toMatchObject({ refused: 1, delivered: 1 })
    const [refused] = await site.engine.bridges.get(id)!.laidAside(listAside)
    expect(refused!.fault.what).toBe('What comes from here does not fit into counts.n: 70000 is out of range of smallint.')
  })

  it('comes once where there is a key, also into MariaDB', async () => {
    const maria = await startMariadb()
    closing.push(() => maria.stop())
    await maria.query('create table counts (id integer primary key, n integer)')
    const site = await bridgeSite(closing)
    const database = await site.link({
      name: 'Book',
      kind: 'sql',
      settings: { ...maria.settings, patience: { retryFirst: 100, retryMost: 200 } },
    })
    await site.tags([memoryTag('count', 0)])
    const fields = [
      { into: 'id', from: 'count - 10 * floor(count / 10)' },
      { into: 'n', from: 'count' },
    ]
    const id = await site.bridge(
      bridgeDraft({ when: onCount, take: count, send: [rows(database, { how: 'upsert', key: ['id'], fields })] }),
    )
    for (const n of range(1, 14)) await site.write('count', n)
    await until(() => site.status(id).destinations[0]!.delivered === 14)
    await maria.end('SIGKILL')
    for (const n of range(15, 19)) await site.write('count', n)
    await until(() => site.status(id).destinations[0]!.kept === 5)
    await maria.again()
    await until(() => site.status(id).destinations[0]!.delivered === 19)
    expect((await maria.query('select n from counts order by id')).map(({ n }) => n)).toEqual([10, ...range(11, 19)])
  })
})

describe('a file', () => {
  const fileSite = async (file: object = {}) => {
    const site = await bridgeSite(closing)
    const link = await site.link({ name: 'Files', kind: 'files', settings: { folder: 'out' } })
    await site.tags([memoryTag('count', 0)])
    const send = [{ kind: 'file', number: 1, linkId: link, name: 'counts.csv', fields: [{ into: 'n', from: 'count' }], ...file }]
    const id = await site.bridge(bridgeDraft({ when: onCount, take: count, send }))
    const folder = join(site.stateFolder, 'files', 'out')
    const read = () => readFileSync(join(folder, 'counts.csv'), 'utf8')
    return { ...site, id, folder, read, link }
  }

  it('gets what it missed once its folder is a folder again', async () => {
    const site = await fileSite()
    await site.write('count', 1)
    await until(() => site.status(site.id).destinations[0]!.delivered === 1)
    renameSync(site.folder, `${site.folder}.gone`)
    writeFileSync(site.folder, 'in the way')
    await site.write('count', 2)
    await until(() => site.status(site.id).destinations[0]!.fault !== null)
    expect(site.status(site.id).fault!.what).toContain('out cannot be written')
    renameSync(site.folder, `${site.folder}.file`)
    renameSync(`${site.folder}.gone`, site.folder)
    await until(() => site.status(site.id).destinations[0]!.delivered === 2)
    expect(site.read()).toBe('n\r\n1\r\n2\r\n')
  })

  it('has each line once, where an attempt was cut off in the middle of one', async () => {
    const site = await fileSite()
    await site.write('count', 1)
    await until(() => site.status(site.id).destinations[0]!.delivered === 1)
    const receiver = site.engine.link(site.link)!.receiver()
    if (!('takes' in receiver) || receiver.takes !== 'file') throw new Error('no folder')
    const lines = ['20\r\n', '21\r\n'].map((line) => Buffer.from(line))
    const from = await receiver.sizeOf('counts.csv')
    writeFileSync(join(site.folder, 'counts.csv'), `${site.read()}20\r\n2`)
    await receiver.append({ file: 'counts.csv', head: Buffer.from('n\r\n'), lines, from })
    expect(site.read()).toBe('n\r\n1\r\n20\r\n21\r\n')
    await receiver.append({ file: 'counts.csv', head: Buffer.from('n\r\n'), lines, from })
    expect(site.read()).toBe('n\r\n1\r\n20\r\n21\r\n')
  })

  it('leads out of its folder by no path and by no link of the file system', async () => {
    const site = await fileSite({ name: '{concat("..", "/x")}' })
    await site.write('count', 1)
    await until(() => site.status(site.id).destinations[0]!.refused === 1)
    expect(site.engine.bridges.runs(site.id)!.at(-1)!.fault!.what).toContain('A path goes down only')
    const other = await fileSite({ name: 'sub/counts.csv' })
    mkdirSync(join(other.stateFolder, 'outside'))
    mkdirSync(other.folder, { recursive: true })
    symlinkSync(join(other.stateFolder, 'outside'), join(other.folder, 'sub'))
    await other.write('count', 1)
    await until(() => other.status(other.id).destinations[0]!.fault !== null)
    expect(other.status(other.id).fault).toMatchObject({ code: 'files.leaves' })
  })

  it('begins anew for each run, or once it is large, in the encoding that was chosen', async () => {
    const site = await fileSite({ per: 'run', name: 'counts.csv', way: { encoding: 'utf-16le', newline: 'lf' } })
    await site.write('count', 1)
    await site.write('count', 2)
    await until(() => site.status(site.id).destinations[0]!.delivered === 2)
    const runs = site.engine.bridges.runs(site.id)!.map(({ number }) => number)
    const texts = runs.map((run) => readFileSync(join(site.folder, `counts-${run}.csv`)).toString('utf16le'))
    expect(texts).toEqual(['\ufeffn\n1\n', '\ufeffn\n2\n'])
  })
})
