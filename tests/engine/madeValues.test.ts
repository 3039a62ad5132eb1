import { afterEach, describe, expect, it } from 'vitest'
import { quality, severityOf } from '#core/tags/quality'
import { changeConfiguration } from '#db/configuration'
import { tagDraft, type TagDraft } from '#shared/tags'
import { closeAll, databaseFor, engineOn, type Closing } from '../support/engineOn'
import { until } from '../support/until'

/** Values that are made here: formulas over other tags, constants and signals, with the real database behind them. */

const closing: Closing = []
afterEach(() => closeAll(closing))

const by = { who: 'test', from: 'page' as const }

const siteWith = async (tags: object[]) => {
  const base = await databaseFor(closing)
  const started = await engineOn(closing, base)
  const change = (edit: Parameters<typeof changeConfiguration>[3]) => changeConfiguration(base.db, 'test', 'made', edit)
  const make = async (drafts: object[]) => {
    const { result, revision } = await change((editor) =>
      editor.insert(
        'tag',
        drafts.map((draft) => tagDraft.parse(draft)),
      ),
    )
    await until(() => started.engine.effectOf(revision).state !== 'not yet')
    return result as { id: number; path: string }[]
  }
  const made = await make(tags)
  const idOf = (path: string) => [...started.engine.tags.all()].find((tag) => tag.path === path)!.id
  const applied = async (edit: Parameters<typeof changeConfiguration>[3]) => {
    const { revision } = await change(edit)
    await until(() => started.engine.effectOf(revision).state !== 'not yet')
  }
  const value = (path: string) => started.valueOf(idOf(path))
  const qualityAt = (path: string) => started.qualityOf(idOf(path))
  const write = (path: string, to: number) => started.engine.writes.writeTag(idOf(path), to, by as never)
  return { ...started, made, make, applied, value, qualityAt, write, idOf, base }
}
const memory = (path: string, start: number | null, type: TagDraft['type'] = 'float64') => ({
  path,
  type,
  access: 'readwrite',
  source: { kind: 'memory', start },
})
const formula = (path: string, text: string, inputs: Record<string, string>, more: object = {}) => ({
  path,
  type: 'float64',
  source: { kind: 'formula', formula: text, inputs, ...more },
})

describe('formulas', () => {
  it('follow their inputs, through others, once per batch', async () => {
    const { value, write, engine, idOf } = await siteWith([
      memory('a', 3),
      memory('b', 4),
      formula('double', 'x * 2', { x: 'sum' }),
      formula('sum', 'a + b', { a: 'a', b: 'b' }),
      formula('both', 's + d', { s: 'sum', d: 'double' }),
    ])
    await until(() => value('both') === 21)
    const samples: unknown[] = []
    const handle = engine.tags.handleOf(idOf('both'))!
    engine.table.listen((handles) => handles.includes(handle) && samples.push(engine.table.values[handle]))
    await write('a', 10)
    await until(() => value('both') === 42)
    expect(samples).toEqual([42])
    expect(engine.table.sourceTime[handle]).toBe(engine.table.sourceTime[engine.tags.handleOf(idOf('a'))!])
  })

  it('are as good as the worst of their inputs, or as was chosen', async () => {
    const { qualityAt, value, write, engine, idOf } = await siteWith([
      memory('a', 3),
      memory('empty', null),
      formula('worst', 'a + b', { a: 'a', b: 'empty' }),
      formula('spare', 'good(b) ? b : a', { a: 'a', b: 'empty' }, { quality: 'best' }),
      formula('zero', '1 / (a - 3)', { a: 'a' }),
      formula('lost', 'a', { a: 'not/there' }),
    ])
    await until(() => value('spare') === 3)
    expect(qualityAt('worst')).toBe(quality.BadWaitingForInitialData)
    expect([qualityAt('spare'), severityOf(qualityAt('zero')!)]).toEqual([quality.Good, 'bad'])
    expect(engine.origin(idOf('zero'))!.fault?.what).toMatch(/divides by zero/)
    expect([qualityAt('lost'), engine.origin(idOf('lost'))!.fault?.code]).toEqual([quality.BadConfigurationError, 'formula.no-input'])
    await write('empty', 7)
    await until(() => value('spare') === 7 && value('worst') === 10)
    await write('a', 4)
    await until(() => value('zero') === 1)
    expect(qualityAt('zero')).toBe(quality.Good)
  })

  it('find tags that come later, lose those that go, and follow one that is called otherwise', async () => {
    const { make, value, qualityAt, applied, idOf } = await siteWith([formula('f', 'x', { x: 'late' })])
    expect(qualityAt('f')).toBe(quality.BadConfigurationError)
    await make([memory('late', 5)])
    await until(() => value('f') === 5)
    await applied((editor) => editor.updateUnseen('tag', [{ id: idOf('late'), path: 'other' }]))
    await until(() => qualityAt('f') === quality.BadConfigurationError)
    await make([memory('late', 6)])
    await until(() => value('f') === 6 && qualityAt('f') === quality.Good)
  })

  it('that read themselves are named with the way, and stop no others', async () => {
    const { value, qualityAt, engine, idOf } = await siteWith([
      memory('a', 1),
      formula('p', 'q', { q: 'q' }),
      formula('q', 'p + a', { p: 'p', a: 'a' }),
      formula('reader', 'p', { p: 'p' }),
      formula('sound', 'a + 1', { a: 'a' }),
    ])
    await until(() => value('sound') === 2)
    for (const path of ['p', 'q', 'reader']) expect(qualityAt(path)).toBe(quality.BadConfigurationError)
    expect(engine.origin(idOf('p'))!.fault?.what).toContain('p → q → p')
    expect(engine.origin(idOf('reader'))!.fault?.what).toContain('p → q → p')
  })

  it('look back, and hold back what is smaller than their deadband', async () => {
    const { value, write, engine, applied, idOf } = await siteWith([
      memory('a', 1),
      formula('step', 'a - previous(a)', { a: 'a' }),
      formula('total', 'previous() + a', { a: 'a' }),
      { ...formula('calm', 'a', { a: 'a' }), reports: { deadband: { kind: 'absolute', value: 2 } } },
      formula('after', 'calm * 10', { calm: 'calm' }),
    ])
    await until(() => value('total') === 1 && value('after') === 10)
    await write('a', 2)
    await until(() => value('total') === 3)
    expect([value('step'), value('calm'), value('after')]).toEqual([1, 1, 10])
    await write('a', 9)
    await until(() => value('after') === 90)
    expect(value('step')).toBe(7)
    await applied((editor) => editor.updateUnseen('tag', [{ id: idOf('total'), description: 'since the start' }]))
    await write('a', 10)
    await until(() => value('total') === 22)
    expect(engine.status().sources.find(({ kind }) => kind === 'formula')).toMatchObject({ tags: 4, goodTags: 4 })
  })
})

describe('constants and signals', () => {
  it('are there at once, and are not written', async () => {
    const { value, write, qualityAt } = await siteWith([
      { path: 'limit', type: 'int64', source: { kind: 'constant', value: '9007199254740993' } },
      { path: 'swing', type: 'float32', source: { kind: 'signal', shape: 'sine', every: 20, cycle: 400 } },
    ])
    expect(value('limit')).toBe(9_007_199_254_740_993n)
    const first = value('swing')
    await until(() => value('swing') !== first)
    expect([qualityAt('swing'), await write('limit', 1)]).toMatchObject([
      quality.Good,
      { ok: false, fault: { code: 'write.not-writable' } },
    ])
  })

  it('noise follows the tag that it is laid on, with its quality', async () => {
    const { value, qualityAt, write } = await siteWith([
      memory('base', null),
      { path: 'noisy', type: 'float64', source: { kind: 'signal', shape: 'noise', of: 'base', step: 0.5, every: 20 } },
    ])
    await until(() => severityOf(qualityAt('noisy')!) === 'bad')
    await write('base', 50)
    await until(() => Math.abs(Number(value('noisy')) - 50) <= 0.5 && qualityAt('noisy') === quality.Good)
  })

  it('memory takes nothing beyond its limits', async () => {
    const { write, value } = await siteWith([{ ...memory('set', 5), source: { kind: 'memory', start: 5, low: 0, high: 10 } }])
    expect(await write('set', 11)).toMatchObject({ ok: false, fault: { code: 'write.value' } })
    expect([(await write('set', 10)).ok, value('set')]).toEqual([true, 10])
  })
})
