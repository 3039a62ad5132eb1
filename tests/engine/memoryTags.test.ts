import { appendFileSync, readFileSync } from 'node:fs'
import { mkdir, rm } from 'node:fs/promises'
import { join } from 'node:path'
import { afterEach, describe, expect, it, vi } from 'vitest'
import type { TagValue } from '#core/tags/types'
import { quality } from '#core/tags/quality'
import { changeConfiguration } from '#db/configuration'
import { takeBack } from '#db/takeBack'
import { MemoryStore } from '#engine/sources/memoryStore'
import { pointSource } from '#shared/sources/point'
import { tagDraft, type TagDraft } from '#shared/tags'
import { closeAll, databaseFor, engineOn, linkTo, metersFor, stateFolderFor, type Closing } from '../support/engineOn'
import { until } from '../support/until'

/** Tags whose values are kept here, through the whole engine. */

const closing: Closing = []
afterEach(() => closeAll(closing))

const by = { who: 'harbourmaster', via: 'page' as const, place: '127.0.0.1' }
const memoryTag = (path: string, type: TagDraft['type'], start: boolean | number | string | null, more: Partial<TagDraft> = {}) =>
  tagDraft.parse({ path, type, access: 'readwrite', source: { kind: 'memory', start }, ...more })

const drafts = [
  memoryTag('port/duty/officer', 'string', 'nobody yet'),
  memoryTag('port/tariff/night', 'float64', 0.19),
  memoryTag('port/passengers', 'uint64', null),
  memoryTag('port/berths', 'uint8[]', '1, 2, 3'),
]

const portWith = async (tags: TagDraft[] = drafts) => {
  const base = await databaseFor(closing)
  const stateFolder = stateFolderFor(closing)
  const started = await engineOn(closing, base, stateFolder)
  const { result, revision } = await changeConfiguration(base.db, 'test', 'made', (editor) => editor.insert('tag', tags))
  const applied = (to: number) => until(() => started.engine.effectOf(to).state === 'in force')
  await applied(revision)
  const write = (id: number, value: TagValue) => started.engine.writes.writeTag(id, value, by)
  return { ...base, ...started, stateFolder, tags: result, ids: result.map(({ id }) => id), applied, write }
}

describe('a memory tag', () => {
  it('starts with what it was given, or waits where it was given nothing', async () => {
    const { ids, valueOf, qualityOf } = await portWith()
    expect(ids.map(valueOf)).toEqual(['nobody yet', 0.19, undefined, [1, 2, 3]])
    expect(ids.map(qualityOf)).toEqual([quality.Good, quality.Good, quality.BadWaitingForInitialData, quality.Good])
  })

  it('takes what fits its type, tells what does not, and records both', async () => {
    const { engine, ids, write, valueOf, qualityOf, journal } = await portWith()
    expect(await write(ids[2]!, '18446744073709551615')).toEqual({ ok: true, readBack: '18446744073709551615' })
    expect([valueOf(ids[2]!), qualityOf(ids[2]!)]).toEqual([18_446_744_073_709_551_615n, quality.Good])
    expect(await write(ids[2]!, '18446744073709551616')).toMatchObject({ ok: false, fault: { code: 'write.value' } })
    expect(await write(ids[1]!, 'cheap')).toMatchObject({ ok: false, fault: { code: 'write.value' } })
    expect(valueOf(ids[1]!)).toBe(0.19)
    expect(await write(ids[1]!, 0.21)).toMatchObject({ ok: true })
    expect(engine.origin(ids[1]!)!.stages).toMatchObject([{ title: 'Kept here', text: '0.21', detail: 'written by harbourmaster,' }])
    expect(journal.writes.map(({ path, value, fault }) => [path, value, fault?.code ?? null])).toContainEqual([
      'port/tariff/night',
      'cheap',
      'write.value',
    ])
  })

  it('has what was written last after a restart, also behind a line that was cut off, and with the newest after many', async () => {
    const { db, url, ids, write, engine, stateFolder } = await portWith()
    for (let i = 0; i < 50; i++) await write(ids[1]!, i / 100)
    await Promise.all([write(ids[0]!, 'A. Brandt'), write(ids[3]!, [7, 8]), write(ids[2]!, 5n), write(ids[1]!, NaN)])
    appendFileSync(join(stateFolder, 'memory-values.jsonl'), '{"set":1,"type":"str')
    await engine.close()

    const again = await engineOn(closing, { db, url }, stateFolder)
    expect(ids.map(again.valueOf)).toEqual(['A. Brandt', NaN, 5n, [7, 8]])
    expect(ids.map(again.qualityOf)).toEqual(ids.map(() => quality.Good))
    expect(again.engine.origin(ids[0]!)!.stages[0]!.detail).toContain('harbourmaster')
  })

  it('is read-only where its access says so', async () => {
    const { ids, write, valueOf } = await portWith([memoryTag('port/berths_built', 'uint8', 3, { access: 'read' })])
    expect(await write(ids[0]!, 4)).toMatchObject({ ok: false, fault: { code: 'write.not-writable' } })
    expect(valueOf(ids[0]!)).toBe(3)
  })

  it('of another type holds nothing of before, and has it again when that is taken back', async () => {
    const { db, ids, tags, write, valueOf, qualityOf, applied } = await portWith()
    await write(ids[1]!, 0.25)
    const { revision } = await changeConfiguration(db, 'test', 'type', (editor) =>
      editor.update('tag', tags[1]!, { type: 'int32', source: { kind: 'memory', start: null, low: null, high: null } }),
    )
    await applied(revision)
    expect([valueOf(ids[1]!), qualityOf(ids[1]!)]).toEqual([undefined, quality.BadWaitingForInitialData])
    await takeBack(db, 'test', revision)
    await applied(revision + 1)
    expect([valueOf(ids[1]!), qualityOf(ids[1]!)]).toEqual([0.25, quality.Good])
  })

  it('becomes a point of a link and comes back, and shows at no time what the other source gave', async () => {
    const { port } = await metersFor(closing)
    const { db, engine, ids, tags, write, valueOf, qualityOf, applied } = await portWith([memoryTag('port/power', 'float32', 7)])
    await write(ids[0]!, 8)
    const seen: unknown[] = []
    engine.table.listen((handles) => handles.forEach((handle) => seen.push([engine.table.values[handle], engine.table.quality[handle]])))
    const { revision } = await changeConfiguration(db, 'test', 'point', async (editor) => {
      const [link] = await editor.insert('link', [linkTo(port)])
      await editor.update('tag', tags[0]!, { source: pointSource.parse({ kind: 'point', linkId: link!.id, address: 'holding/40' }) })
    })
    await until(() => qualityOf(ids[0]!) === quality.Good && Number(valueOf(ids[0]!)) > 100)
    expect(seen).not.toContainEqual([8, quality.Good])
    expect(await engine.writes.writeTag(ids[0]!, 5, by)).toMatchObject({ ok: false })
    await takeBack(db, 'test', revision)
    await applied(revision + 1)
    expect([valueOf(ids[0]!), qualityOf(ids[0]!)]).toEqual([7, quality.Good])
    expect(engine.status().links).toEqual([])
  })

  it('stays as it was where the disk does not take it, and says so', async () => {
    const { ids, write, valueOf, stateFolder, engine } = await portWith()
    const file = join(stateFolder, 'memory-values.jsonl')
    const store = engine['options'].memory
    await store['file'].close()
    await rm(file)
    await mkdir(file)
    expect(await write(ids[0]!, 'A. Brandt')).toMatchObject({ ok: false, fault: { code: 'write.not-kept', side: 'here' } })
    expect(valueOf(ids[0]!)).toBe('nobody yet')
    await rm(file, { recursive: true })
    expect(await write(ids[0]!, 'A. Brandt')).toMatchObject({ ok: true })
    expect(readFileSync(file, 'utf8')).toContain('A. Brandt')
  })

  it('on a disk that hangs is told as unknown, and holds what was written once the disk has it', async () => {
    const { ids, write, valueOf, engine } = await portWith()
    const file = engine['options'].memory['file']
    const add = file.add.bind(file)
    let letGo = () => {}
    const hangs = new Promise<void>((resolve) => (letGo = resolve))
    file.add = (lines) => hangs.then(() => add(lines))
    vi.useFakeTimers({ toFake: ['setTimeout', 'clearTimeout'] })
    const written = write(ids[0]!, 'A. Brandt')
    await vi.advanceTimersByTimeAsync(10_000)
    vi.useRealTimers()
    expect(await written).toMatchObject({ ok: false, fault: { code: 'write.unknown' } })
    expect(valueOf(ids[0]!)).toBe('nobody yet')
    letGo()
    await until(() => valueOf(ids[0]!) === 'A. Brandt')
  })

  it('that goes leaves nothing behind', async () => {
    const { db, ids, tags, write, engine, stateFolder } = await portWith()
    await write(ids[0]!, 'A. Brandt')
    await changeConfiguration(db, 'test', 'gone', (editor) => editor.remove('tag', tags))
    await until(() => engine.table.size === 0)
    const file = join(stateFolder, 'memory-values.jsonl')
    await until(() => readFileSync(file, 'utf8').includes('"gone"'))
    const store = new MemoryStore(file)
    await store.open()
    expect(readFileSync(file, 'utf8')).toBe('')
    await store.close()
  })
})
