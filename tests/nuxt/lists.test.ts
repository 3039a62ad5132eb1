import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { ref, shallowRef } from 'vue'
import { listJournal } from '#shared/api/journal'
import { linkTraffic } from '#shared/api/links'
import { useLog } from '~/composables/useLog'
import type { TagFilter } from '~/composables/useTagFilter'
import { useTagPages } from '~/composables/useTagPages'
import type { FrameConnection, PassedFrame } from '#core/traffic/frameBook'
import { useTraffic, type TrafficSource } from '~/composables/useTraffic'
import { answerWith, leave, refusal, settled, startAnew, within } from './support'

beforeEach(() => {
  startAnew()
  vi.useFakeTimers()
})
afterEach(() => {
  leave()
  vi.useRealTimers()
})

const entry = (id: number, text = 'x') => ({ id, text, at: '', severity: 'note', source: 'Engine', fault: null })
const range = (from: number, to: number) => Array.from({ length: from - to + 1 }, (_, i) => entry(from - i))

describe('a log', () => {
  it('stays fresh at its head, keeps what was paged to, and ends', async () => {
    let newest = 250
    const heard = answerWith(({ query }) => {
      const from = query.before ? Number(query.before) - 1 : newest
      return { total: newest, offset: 0, items: range(from, Math.max(1, from - 99)) }
    })
    const log = within(() => useLog(listJournal, () => ({})))
    await settled()
    expect([log.entries.value[0]!.id, log.entries.value.length, log.more.value]).toEqual([250, 100, true])
    await log.older()
    await log.older()
    expect([log.entries.value.at(-1)!.id, log.more.value]).toEqual([1, false])
    newest = 252
    await vi.advanceTimersByTimeAsync(2000)
    expect(log.entries.value.map(({ id }) => id)).toEqual(range(252, 1).map(({ id }) => id))
    expect(heard.every(({ query }) => query.limit === '100')).toBe(true)
  })

  it('starts over with another filter, and takes nothing that belongs to the one before', async () => {
    const find = ref('slow')
    let answerSlow: (page: unknown) => void = () => {}
    answerWith(({ query }) =>
      query.find === 'slow' ? new Promise((resolve) => (answerSlow = resolve)) : { total: 1, offset: 0, items: [entry(9, 'fast')] },
    )
    const log = within(() => useLog(listJournal, () => ({ find: find.value })))
    find.value = 'fast'
    await settled()
    answerSlow({ total: 1, offset: 0, items: [entry(1, 'slow')] })
    await settled()
    expect(log.entries.value.map(({ text }) => text)).toEqual(['fast'])
  })

  it('says what is away, and shows again what comes back', async () => {
    answerWith(() => refusal('database.away', {}, {}, 503))
    const log = within(() => useLog(listJournal, () => ({})))
    await settled()
    expect(log.refused.value?.why.code).toBe('database.away')
    answerWith(() => ({ total: 1, offset: 0, items: [entry(1)] }))
    await vi.advanceTimersByTimeAsync(2000)
    expect([log.refused.value, log.entries.value.length]).toEqual([null, 1])
  })
})

describe('pages of tags', () => {
  const note = { kind: 'overlap', text: 'overlaps t/1 by 1 word', todo: 'Correct it.', key: 'overlap x', accepted: null }
  const filter = ref<TagFilter>({ link: null, source: null, below: '', access: null, quality: null, noted: null, find: '' })
  const pageAt = (offset: number, total: number) => ({
    total,
    offset,
    items: Array.from({ length: Math.min(100, total - offset) }, (_, i) => ({ id: offset + i, path: `t/${offset + i}` })),
    notes: offset === 0 ? { 0: [note] } : {},
  })

  it('are asked for once each, as far as they are looked at', async () => {
    const heard = answerWith(({ query }) => pageAt(Number(query.offset), 10_000))
    const pages = within(() => useTagPages(() => filter.value))
    await pages.refresh()
    pages.need(0, 120)
    pages.need(90, 130)
    await settled()
    expect(heard.map(({ query }) => query.offset)).toEqual(['0', '100'])
    expect([pages.total.value, pages.rows.get(130)?.path, pages.notes.get(0)]).toEqual([10_000, 't/130', [note]])
  })

  it('that could not be had are asked for again, and rows that are gone go', async () => {
    let total = 150
    answerWith(({ query }) => (query.offset === '100' ? refusal('database.away', {}, {}, 503) : pageAt(0, total)))
    const pages = within(() => useTagPages(() => filter.value))
    await pages.refresh()
    pages.need(100, 149)
    await settled()
    expect(pages.refused.value?.why.code).toBe('database.away')
    answerWith(({ query }) => pageAt(Number(query.offset), total))
    pages.need(100, 149)
    await settled()
    expect([pages.refused.value, pages.rows.size]).toEqual([null, 150])
    total = 120
    await pages.refresh(true)
    expect([pages.total.value, pages.rows.size]).toEqual([120, 120])
  })
})

describe('traffic', () => {
  const frame = (n: number) => ({ n, at: 0.25, connection: 1, out: true, length: 2, bytes: btoa('\u0001A') })
  const connections = [{ id: 1, peer: '10.8.0.4:502', here: '10.8.0.9:50001' }]
  const source: TrafficSource = { operation: linkTraffic, id: 4, kind: 'modbus-tcp', asks: true }
  const taken = () => {
    const frames: PassedFrame[] = []
    const ends: FrameConnection[] = []
    const take = (connections: FrameConnection[], passed: PassedFrame[]) => {
      ends.push(...connections)
      frames.push(...passed)
      return Promise.resolve()
    }
    return { frames, ends, take }
  }

  it('goes on where it was, counts what was lost, and not what passed before it looked', async () => {
    const answers = [
      { frames: [], next: 50, lost: 49, connections },
      { frames: [frame(53), frame(54)], next: 54, lost: 2, connections },
    ]
    const heard = answerWith(() => answers.shift() ?? { frames: [], next: 54, lost: 0, connections: [] })
    const { frames, ends, take } = taken()
    const traffic = within(() => useTraffic(() => source, take))
    await settled()
    await vi.advanceTimersByTimeAsync(500)
    expect(heard.map(({ path, query }) => [path, query.after])).toEqual([
      ['/links/4/traffic', undefined],
      ['/links/4/traffic', '50'],
    ])
    expect(traffic.lost.value).toBe(2)
    expect(frames.map(({ at, bytes }) => [at, ...bytes])).toEqual([
      [0.25, 1, 65],
      [0.25, 1, 65],
    ])
    expect(ends[0]).toEqual({ id: 1, peer: '10.8.0.4:502', here: '10.8.0.9:50001', kind: 'modbus-tcp', asks: true })
    leave()
    const asked = heard.length
    await vi.advanceTimersByTimeAsync(5000)
    expect(heard).toHaveLength(asked)
  })

  it('asks on at once where more waits than comes at a time, and not at all while it is held', async () => {
    const full = Array.from({ length: 1000 }, (_, n) => frame(n))
    const answers = [{ frames: [], next: 0, lost: 0, connections }, { frames: full, next: 1000, lost: 0, connections }, { frames: full, next: 2000, lost: 0, connections }] // prettier-ignore
    const heard = answerWith(() => answers.shift() ?? { frames: [], next: 2000, lost: 0, connections: [] })
    const { frames, take } = taken()
    const traffic = within(() => useTraffic(() => source, take))
    await settled()
    await vi.advanceTimersByTimeAsync(450)
    expect([frames.length, heard.length]).toEqual([2000, 4])
    traffic.held.value = true
    await vi.advanceTimersByTimeAsync(5000)
    expect(heard).toHaveLength(4)
    traffic.goOn()
    await vi.advanceTimersByTimeAsync(500)
    // what passed meanwhile is not caught up on
    expect(heard[4]!.query.after).toBeUndefined()
  })

  it('stays held where the lists of the site are read anew, and begins anew with somebody else', async () => {
    answerWith(() => ({ frames: [], next: 2, lost: 0, connections: [] }))
    const looked = shallowRef(source)
    const traffic = within(() => useTraffic(() => looked.value, taken().take))
    await settled()
    traffic.held.value = true
    looked.value = { ...source }
    await settled()
    expect(traffic.held.value).toBe(true)
    looked.value = { ...source, id: 5 }
    await settled()
    expect(traffic.held.value).toBe(false)
  })

  it('loses nothing to an engine that was started anew and counts afresh', async () => {
    const answers: unknown[] = [{ frames: [], next: 900, lost: 0, connections: [] }, refusal('engine.away', {}, {}, 503)]
    const heard = answerWith(() => answers.shift() ?? { frames: [frame(1)], next: 1, lost: 900, connections: [] })
    const { frames, take } = taken()
    const traffic = within(() => useTraffic(() => source, take))
    await settled()
    await vi.advanceTimersByTimeAsync(400)
    expect(traffic.refused.value?.why.code).toBe('engine.away')
    await vi.advanceTimersByTimeAsync(400)
    expect(heard.at(-1)!.query.after).toBeUndefined()
    expect([traffic.refused.value, frames.length, traffic.lost.value]).toEqual([null, 1, 0])
  })
})
