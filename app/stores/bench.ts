import { z } from 'zod'
import { addToBench, benchNow, changeOnBench, listBench, readOnBench, removeFromBench, writeOnBench } from '#shared/api/bench'
import { mostKept, mostOnBench, type BenchEntry, type BenchPoint, type BenchReading } from '#shared/bench'
import type { ValueOrigin, WireValue } from '#shared/values'

/** Links end a write before this; a page that gave up earlier would tell a failure that may not be one. */
const longestWriteMs = 160_000
const atOnce = 8
const keptItem = 'bench-kept'

const keptBefore = (): number[] => {
  try {
    return z.array(z.int()).parse(JSON.parse(sessionStorage.getItem(keptItem) ?? '[]'))
  } catch {
    return []
  }
}

/** The points that somebody tries without making tags: what came of each, and which are read over and over. */
export const useBench = defineStore('bench', () => {
  const entries = shallowRef<BenchEntry[]>([])
  const loaded = ref(false)
  const refused = shallowRef<Refused | null>(null)
  /** Those that are read over and over, also after the page was loaded anew. */
  const kept = reactive(new Set(keptBefore()))
  watch(kept, () => sessionStorage.setItem(keptItem, JSON.stringify([...kept])))
  const readings = shallowReactive(new Map<number, BenchReading>())
  /** How the values came about that were read once. */
  const origins = shallowReactive(new Map<number, ValueOrigin>())
  /** Reads under way. */
  const busy = reactive(new Set<number>())

  const attempt = async <T>(work: () => Promise<T>): Promise<T | null> => {
    try {
      const result = await work()
      refused.value = null
      return result
    } catch (error) {
      refused.value = asRefused(error)
      return null
    }
  }
  const put = (entry: BenchEntry) => {
    entries.value = entries.value.map((one) => (one.id === entry.id ? entry : one))
  }
  const load = () =>
    attempt(async () => {
      entries.value = inOrder((await callApi(listBench, { query: { limit: mostOnBench } })).items)
      const there = new Set(entries.value.map(({ id }) => id))
      for (const id of kept) if (!there.has(id)) kept.delete(id)
      loaded.value = true
    })

  /** What lies there already is not put there twice. Answers with the entries of all of them; null: refused. */
  const add = async (points: BenchPoint[]): Promise<BenchEntry[] | null> => {
    const known = new Map(entries.value.map((entry) => [keyOf(entry), entry]))
    const fresh = points.filter((point) => !known.has(keyOf(point)))
    const made = fresh.length === 0 ? [] : await attempt(() => callApi(addToBench, { body: { points: fresh } }))
    if (made === null) return null
    entries.value = inOrder([...made, ...entries.value])
    for (const entry of made) known.set(keyOf(entry), entry)
    return points.flatMap((point) => known.get(keyOf(point)) ?? [])
  }

  const readOne = async (id: number) => {
    busy.add(id)
    const answer = await attempt(() => callApi(readOnBench, { params: { id } }, { timeoutMs: 60_000 }))
    busy.delete(id)
    if (!answer) return
    origins.set(id, answer.origin)
    put(answer.entry)
  }
  /** Each once, a few at a time. */
  const read = async (ids: readonly number[]) => {
    const waiting = [...ids]
    const worker = async () => {
      for (let id = waiting.shift(); id !== undefined; id = waiting.shift()) await readOne(id)
    }
    await Promise.all(Array.from({ length: atOnce }, worker))
  }

  const keep = (ids: readonly number[]) => {
    for (const id of ids) if (kept.size < mostKept) kept.add(id)
  }
  const rest = (ids: readonly number[]) => {
    for (const id of ids) {
      kept.delete(id)
      readings.delete(id)
    }
  }
  /** What those have that are read over and over. */
  const look = async (open: number | null) => {
    const ids = [...kept]
    if (ids.length === 0) return
    const answer = await attempt(() => callApi(benchNow, { body: { ids, open } }))
    if (answer === null) return readings.clear()
    for (const reading of answer) if (kept.has(reading.id)) readings.set(reading.id, reading)
  }

  /** Throws what is refused. */
  const write = async (id: number, value: boolean | number | string): Promise<WireValue> => {
    try {
      const answer = await callApi(writeOnBench, { params: { id }, body: { value } }, { timeoutMs: longestWriteMs })
      put(answer.entry)
      return answer.readBack
    } catch (error) {
      await load()
      throw error
    }
  }

  const change = async (id: number, point: BenchPoint) => {
    const entry = await attempt(() => callApi(changeOnBench, { params: { id }, body: point }))
    if (!entry) return
    put(entry)
    readings.delete(id)
    if (!kept.has(id)) await readOne(id)
  }

  const remove = async (ids: number[]) => {
    if (!(await attempt(() => callApi(removeFromBench, { body: { ids } })))) return
    rest(ids)
    for (const id of ids) origins.delete(id)
    entries.value = entries.value.filter(({ id }) => !ids.includes(id))
  }

  return { entries, loaded, refused, kept, readings, origins, busy, load, add, read, keep, rest, look, write, change, remove }
})

/** The newest first; what was put there at once in the order of its addresses. */
const inOrder = (entries: BenchEntry[]) => entries.toSorted((a, b) => (a.madeAt === b.madeAt ? a.id - b.id : a.madeAt < b.madeAt ? 1 : -1))

const keyOf = ({ linkId, address, type, options, interval }: BenchPoint) => JSON.stringify([linkId, address, type, options, interval])
