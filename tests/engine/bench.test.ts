import { afterEach, describe, expect, it, vi } from 'vitest'
import { quality } from '#core/tags/quality'
import { changeConfiguration } from '#db/configuration'
import { BenchPoints } from '#engine/tags/benchPoints'
import { WatchedBlocks } from '#engine/tags/watchedBlocks'
import { benchPoint } from '#shared/bench'
import { linkContract } from '#shared/links/link'
import { pointTag, tagDraft } from '#shared/tags'
import { closeAll, databaseFor, engineOn, metersFor, type Closing } from '../support/engineOn'
import { until } from '../support/until'

/** Points that are tried without tags, and tags that are watched, with a meter on its socket. */

const closing: Closing = []
afterEach(async () => {
  vi.useRealTimers()
  await closeAll(closing)
})
const by = { who: 'Engineer', via: 'page' as const, place: '10.8.0.9' }

const site = async () => {
  const meters = await metersFor(closing)
  const base = await databaseFor(closing)
  const started = await engineOn(closing, base)
  const draft = linkContract.parse({
    name: 'Berth meters',
    kind: 'modbus-tcp',
    settings: { host: '127.0.0.1', port: meters.port, unit: 11, order: 'CDAB', interval: 50 },
  })
  const change = async (edit: Parameters<typeof changeConfiguration>[3]) => {
    const { result, revision } = await changeConfiguration(base.db, 'test', 'made', edit)
    await until(() => started.engine.effectOf(revision).state !== 'not yet')
    return result
  }
  const [link] = (await change((editor) => editor.insert('link', [draft]))) as { id: number; revision: number }[]
  const point = (address: string, more = {}) => ({
    ...benchPoint.parse({ linkId: link!.id, address, type: 'float32', interval: 100, ...more }),
    id: 1,
  })
  const now = (...asked: ReturnType<typeof point>[]) => started.engine.bench.now(asked)
  return { ...started, ...meters, link: { ...draft, ...link! }, change, point, now }
}

describe('points on the bench', () => {
  it('are read over and over in their link’s rounds, with their bytes, and count as no tags', async () => {
    const { engine, point, now } = await site()
    const power = point('11:holding/40')
    expect(now(power)[0]).toMatchObject({ quality: quality.BadWaitingForInitialData, value: null })
    await until(() => now(power)[0]!.quality === quality.Good)
    const [reading] = now(power)
    expect(reading!.origin!.readings).toEqual([])
    expect(engine.bench.now([power], power.id)[0]!.origin!.readings.length).toBeGreaterThan(5)
    expect(reading!.value).toBeGreaterThan(900)
    expect(reading!.origin!.stages[0]).toMatchObject({
      title: 'Words on the wire',
      text: expect.stringMatching(/^(\w\w ){3}\w\w$/) as string,
    })
    expect(engine.status()).toMatchObject({ tags: 0, goodTags: 0 })
    await until(() => now(power)[0]!.seenAt > reading!.seenAt)
  })

  it('of one kind are one point, whoever asks; another type is another', async () => {
    const { engine, point, now } = await site()
    now(point('11:holding/40'), { ...point('11:holding/40'), id: 2 }, point('11:holding/40', { type: 'uint16' }))
    expect(engine['bench']['held'].size).toBe(2)
  })

  it('stand beside those that the device does not have', async () => {
    const { point, now } = await site()
    const [good, wrong] = [point('11:holding/40'), point('12:holding/46', { type: 'uint16' })]
    await until(() => now(good, wrong)[0]!.quality === quality.Good && now(wrong)[0]!.origin?.fault?.code === 'modbus.exception')
  })

  it('never touch what tags beside them have, nor how their link is', async () => {
    const { engine, link, change, point, now } = await site()
    const draft = pointTag({ path: 'berth/current', linkId: link.id, address: '12:holding/44', type: 'float32', interval: 100 })
    const [tag] = (await change((editor) => editor.insert('tag', [draft]))) as { id: number }[]
    const handle = engine.tags.handleOf(tag!.id)!
    await until(() => engine.table.quality[handle] === quality.Good)
    const { ring } = engine.table.follow(handle, 1000)
    const wrong = point('12:holding/46', { type: 'uint16' })
    await until(() => now(wrong)[0]!.origin?.fault?.code === 'modbus.exception')
    const settledAt = Date.now()
    await until(() => now(wrong)[0]!.seenAt >= 0 && engine.table.seenAt[handle]! > settledAt + 300)
    expect(ring.drain().filter((sample) => sample.quality !== quality.Good)).toEqual([])
    expect(engine.status().links[0]).toMatchObject({ flow: 'flowing', tags: 1, goodTags: 1 })
    expect(engine.status().links[0]!.units![0]).toMatchObject({ refused: [], refusedCount: 0 })
  })

  it('are written to, and the record says by whom and what', async () => {
    const { engine, point, journal } = await site()
    const limit = point('11:holding/90')
    expect(await engine.bench.write(limit, 900, by)).toEqual({ ok: true, readBack: 900 })
    expect(journal.writes.at(-1)).toMatchObject({
      who: 'Engineer',
      tagId: null,
      path: 'Berth meters|11:holding/90|float32|100',
      value: '900',
    })
    expect(await engine.bench.write(point('11:input/0', { type: 'uint32' }), 5, by)).toMatchObject({
      ok: false,
      fault: { code: 'write.not-writable' },
    })
  })

  it('say so when their link is switched off, or goes', async () => {
    const { change, link, point, now } = await site()
    const power = point('11:holding/40')
    await until(() => now(power)[0]!.quality === quality.Good)
    await change((editor) => editor.updateUnseen('link', [{ id: link.id, on: false }]))
    await until(() => now(power)[0]!.quality === quality.BadOutOfService)
    await change((editor) => editor.remove('link', [link]))
    await until(() => now(power)[0]!.quality === quality.BadConfigurationError)
    expect(now(power)[0]!.origin!.fault!.what).toMatch(/link is not there any more/)
  })

  it('that cannot be are told with the reason', async () => {
    const { point, now } = await site()
    expect(now(point('coil/3'))[0]!.origin!.fault!.what).toMatch(/“float32”/)
  })

  it('are let go when nobody has asked for ten seconds, but not while a write is under way', async () => {
    vi.useFakeTimers()
    const release = vi.fn()
    let writeEnds = (): void => {}
    let handles = 0
    const bench = new BenchPoints({
      table: { values: [], quality: [], sourceTime: [], seenAt: [] } as never,
      requested: { askPoint: () => ({ ok: true, handle: handles++, writable: true }), release, isAlive: () => true },
      originOf: () => null,
      write: () => new Promise((resolve) => (writeEnds = () => resolve({ ok: true }))),
    })
    const point = { ...benchPoint.parse({ linkId: 1, address: 'holding/1', type: 'int16' }), id: 1 }
    bench.now([point])
    await vi.advanceTimersByTimeAsync(9000)
    bench.now([point])
    await vi.advanceTimersByTimeAsync(9000)
    expect(release).not.toHaveBeenCalled()
    await vi.advanceTimersByTimeAsync(4000)
    expect(release).toHaveBeenCalledExactlyOnceWith(0)
    void bench.write(point, 5, by)
    await vi.advanceTimersByTimeAsync(60_000)
    expect(release).toHaveBeenCalledTimes(1)
    writeEnds()
    await vi.advanceTimersByTimeAsync(4000)
    expect(release).toHaveBeenCalledTimes(2)
    bench.now([point])
    const ended = vi.spyOn(globalThis, 'clearInterval')
    bench.close()
    expect(release).toHaveBeenCalledTimes(3)
    expect(ended).toHaveBeenCalledWith(bench['timer'])
  })
})

describe('blocks of registers', () => {
  it('are noted moment by moment, with the reason where nothing is there', async () => {
    const { engine, link } = await site()
    const addresses = Array.from({ length: 8 }, (_, i) => `11:holding/${40 + i}`)
    const look = () => engine.blocks.look(link.id, addresses, 100)
    await until(
      () =>
        look()
          .problems.slice(0, 6)
          .every((problem) => problem === null) && look().times.length > 3,
    )
    const { times, words, problems } = look()
    expect(problems[6]).toMatch(/exception 2/)
    expect(
      words
        .at(-1)!
        .slice(0, 6)
        .every((word) => Number.isInteger(word)),
    ).toBe(true)
    expect(words.at(-1)!.slice(6)).toEqual([null, null])
    expect(times).toEqual([...new Set(times)].toSorted((a, b) => a - b))
  })

  it('are few at once, and let go when nobody asks', () => {
    vi.useFakeTimers()
    const sample = vi.fn(() => ({ quality: 0, value: 1, seenAt: Date.now(), problem: null }))
    const blocks = new WatchedBlocks({ sample })
    for (let i = 0; i < 12; i++) blocks.look(1, [`holding/${i}`], 100)
    expect(blocks['watched'].size).toBe(8)
    vi.advanceTimersByTime(60_000)
    expect(blocks['watched'].size).toBe(0)
    expect(vi.getTimerCount()).toBe(0)
    blocks.look(1, ['holding/1'], 100)
    for (let i = 0; i < 50; i++) {
      vi.advanceTimersByTime(1000)
      blocks.look(1, ['holding/1'], 100)
    }
    expect(blocks.look(1, ['holding/1'], 100).times).toHaveLength(240)
    blocks.close()
  })
})

describe('tags that are watched', () => {
  const memory = (path: string, type = 'int32') =>
    tagDraft.parse({ path, type, access: 'readwrite', source: { kind: 'memory', start: type === 'bool' ? false : 5 } })

  it('tell how they went, from the value that they had', async () => {
    const { engine, change } = await site()
    const [level, gate] = (await change((editor) => editor.insert('tag', [memory('level'), memory('gate', 'bool')]))) as { id: number }[]
    expect(engine.trends.of([level!.id, gate!.id, 999], 0)).toMatchObject([
      { id: level!.id, least: 5, most: 5 },
      { id: gate!.id, least: 0, most: 0 },
    ])
    for (const value of [9, -4, 7]) await engine.writes.writeTag(level!.id, value, by)
    const [trend] = engine.trends.of([level!.id], 0)
    expect(trend).toMatchObject({ least: -4, most: 9 })
    expect(trend!.highs.at(-1)).toBeGreaterThanOrEqual(7)
  })

  it('that go are followed no more, and their place in the table is another’s', async () => {
    const { engine, change } = await site()
    const [level] = (await change((editor) => editor.insert('tag', [memory('level')]))) as { id: number }[]
    engine.trends.of([level!.id], 0)
    await change((editor) => editor.remove('tag', [level!]))
    await change((editor) => editor.insert('tag', [memory('other')]))
    expect(engine.trends.of([level!.id], 0)).toEqual([])
    expect(engine.trends['followed'].size).toBe(0)
  })
})
