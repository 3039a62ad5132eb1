import { afterEach, describe, expect, it } from 'vitest'
import { bridgeContract } from '#core/bridges/settings'
import { recordingContract } from '#core/history/settings'
import { quality } from '#core/tags/quality'
import { HistoryReader } from '#db/history/reader'
import type { Editor } from '#db/editor'
import { linkContract } from '#shared/links/link'
import { tagDraft } from '#shared/tags'
import { bridgeDraft, memoryTag, otherDatabase } from '../support/bridgeSite'
import { closeAll, type Closing } from '../support/engineOn'
import { siteOfMachines } from '../support/siteMachines'
import { until } from '../support/until'

/** What the machine that leads kept on its own disk, and the next one has. */

const closing: Closing = []
afterEach(() => closeAll(closing))

const by = { who: 'ada', via: 'page', place: 'test' } as const

const plant = async (editor: Editor) => {
  const limits = [{ kind: 'high', at: 80 }]
  await editor.insert('tag', [
    tagDraft.parse({ path: 'tank/level', source: { kind: 'memory', start: 50 }, type: 'float64', limits, access: 'readwrite' }),
    tagDraft.parse({
      ...{ path: 'quay/count', type: 'float64' },
      source: { kind: 'signal', shape: 'ramp', every: 50, low: 0, high: 100_000, cycle: 3_600_000 },
    }),
  ])
  await editor.insert('recording', [recordingContract.parse({ pattern: 'quay/count', how: { kind: 'change' } })])
}

describe('a machine that takes over', () => {
  it('has the values of memory tags and what was said of alarms, and its record has the last that the one before heard', async () => {
    const { machines, database } = await siteOfMachines(closing, ['harbour-a', 'harbour-b'], plant)
    const [first, second] = machines
    const idOf = async (path: string) =>
      (await database.db.selectFrom('tag').select('id').where('path', '=', path).executeTakeFirstOrThrow()).id
    const [level, count] = [await idOf('tank/level'), await idOf('quay/count')]
    expect(await first!.ask((engine) => engine.write(level, 85, by))).toMatchObject({ ok: true })
    const alarms = () => second!.ask((engine) => Promise.resolve(engine.alarms({ sort: 'rank', offset: 0, limit: 10 }))).catch(() => null)
    const raised = await until(alarms, (page) => page?.items.length === 1)
    await second!.ask((engine) => Promise.resolve(engine.acknowledgeAlarms([raised!.items[0]!.key], 'maren', 'Pump 2 runs')))
    const reader = new HistoryReader(database.url)
    closing.push(() => reader.close())
    const since = Date.now()
    const samples = () => reader.samples({ id: count, from: since, to: Date.now(), most: 100_000 })
    await until(samples, (all) => all.length > 5)
    // what was said is a moment late at the other machine
    await until(async () =>
      (await database.db.selectFrom('site_kept').select('value').where('room', '=', 'alarms').execute()).some(({ value }) =>
        value.includes('maren'),
      ),
    )

    // the last that it hears waits on its disk when it is switched off
    first!.cable.hold()
    const heldAt = Date.now()
    await new Promise((resolve) => setTimeout(resolve, 2000))
    const offAt = Date.now()
    await first!.stop('SIGKILL')
    const taken = await until(alarms, (page) => page?.items.length === 1)
    expect(taken!.items[0]).toMatchObject({ key: raised!.items[0]!.key, seen: { by: 'maren' }, comment: { text: 'Pump 2 runs' } })
    const [value] = await until(
      () => second!.ask((engine) => Promise.resolve(engine.valuesOf([level]))).catch(() => []),
      (values) => values.length === 1,
    )
    expect(value).toMatchObject({ quality: quality.Good, value: 85 })

    const ledAt = await until(async () => (await second!.status())?.lead?.since)
    const isOf =
      (from: number, to: number) =>
      ({ at, quality: q }: { at: number; quality: number }) =>
        at >= from && at < to && q === 0
    await until(samples, (all) => all.some(isOf(ledAt!, Infinity)))
    const before = (await samples()).filter(isOf(heldAt + 600, offAt)).length
    expect(before).toBe(0)
    // nobody heard anything between the two, and nothing says so
    expect((await samples()).filter(isOf(offAt + 200, ledAt! - 200))).toEqual([])
    await first!.again(closing, database.url)
    // every 50 ms, up to what lay in memory when it went off; and from then on nobody heard anything
    const isDoubted = ({ at, quality: q }: { at: number; quality: number }) => q !== 0 && at >= offAt - 1000 && at <= ledAt!
    const after = await until(samples, (all) => all.filter(isOf(heldAt + 600, offAt)).length > 15 && all.some(isDoubted))
    expect(new Set(after.map(({ at }) => at)).size).toBe(after.length)
  })
})

describe('a machine that was off while another led', () => {
  it('brings what its bridges kept for a receiver that was away, each record once', async () => {
    const book = await otherDatabase(closing)
    await book.query('create table counts_later (n integer primary key)')
    const { machines, database } = await siteOfMachines(closing, ['harbour-a', 'harbour-b'], async (editor) => {
      const [link] = await editor.insert('link', [linkContract.parse({ name: 'Book', kind: 'sql', settings: book.settings })])
      await editor.insert('tag', [tagDraft.parse(memoryTag('count', 0))])
      const way = { kind: 'table', number: 1, linkId: link!.id, table: 'counts', fields: [{ into: 'n', from: 'count' }] }
      const take = [{ name: 'count', kind: 'tag', path: 'count' }]
      const draft = bridgeDraft({ when: [{ kind: 'change', tag: 'count' }], take, send: [way] })
      await editor.insert('bridge', [bridgeContract.parse(draft)])
    })
    const [first, second] = machines
    const { id } = await database.db.selectFrom('tag').select('id').where('path', '=', 'count').executeTakeFirstOrThrow()
    const up = async (from: number, to: number, kept: number) => {
      for (let n = from; n <= to; n++)
        await until(
          () => second!.ask((engine) => engine.write(id, n, by)).catch(() => null),
          (done) => done?.ok === true,
        )
      await until(
        async () => (await second!.status())?.bridges[0]?.destinations[0]?.kept,
        (waiting) => waiting === kept,
      )
    }
    await up(1, 20, 20)
    await first!.stop('SIGKILL')
    await until(async () => (await second!.status())?.lead?.name === 'harbour-b')
    await book.query('alter table counts_later rename to counts')
    await up(21, 25, 0)
    const counts = async () => (await book.query('select n from counts order by n')).map(({ n }) => n)
    expect(await counts()).toEqual([21, 22, 23, 24, 25])
    await first!.again(closing, database.url)
    await until(counts, (all) => all.length === 25)
    await until(async () => (await second!.status())?.bridges[0]?.destinations[0]?.kept === 0)
    expect((await second!.status())!.bridges[0]!.destinations[0]).toMatchObject({ aside: 0, dropped: 0 })
  })
})
