import { followCheckSheet, listCheckPoints, showCheckSheet } from '#shared/api/checks'
import type { CheckCompany, CheckPoint, CheckSheet } from '#shared/checks'

const everyMs = 4000
const atOnce = 2000

export type WholeSheet = CheckSheet & { digestNow: string; touched: { what: 'added' | 'removed' | 'changed'; path: string | null }[] }

/**
 * A sheet with its points, as long as it is on screen: it says at which point one is, and takes what others checked. Without
 * a connection it goes on with what there is.
 */
export const useCheckSheet = (id: number, at: () => number | null) => {
  const sheet = shallowRef<WholeSheet | null>(null)
  const points = shallowRef<CheckPoint[]>([])
  const people = shallowRef<CheckCompany['people']>([])
  const refused = shallowRef<Refused | null>(null)
  /** Whether the site answered last. */
  const isAway = ref(false)
  let seen: CheckCompany | null = null
  /** All of it is to be asked for, whatever seems to be the same. */
  let isStale = true

  const page = (query: { offset: number; after?: number }) =>
    callApi(listCheckPoints, { params: { id }, query: { ...query, limit: atOnce } })

  const loadAll = async () => {
    sheet.value = await callApi(showCheckSheet, { params: { id } })
    const all: CheckPoint[] = []
    for (;;) {
      const { items, total } = await page({ offset: all.length })
      all.push(...items)
      if (items.length === 0 || all.length >= total) break
    }
    points.value = all
  }

  /** Only what was checked since. */
  const loadChecked = async (after: number) => {
    const { items, total } = await page({ offset: 0, after })
    if (items.length < total) return loadAll()
    const fresh = new Map(items.map((point) => [point.tag, point]))
    points.value = points.value.map((point) => fresh.get(point.tag) ?? point)
  }

  const follow = async () => {
    const now = await callApi(followCheckSheet, { params: { id }, body: { tag: at() } })
    people.value = now.people
    if (isStale || isOther(now, seen)) {
      isStale = false
      await loadAll().catch((error: unknown) => {
        isStale = true
        throw error
      })
    } else if (now.last !== seen!.last) await loadChecked(seen!.last)
    seen = now
  }

  /** One look at a time: an older answer never comes after a newer one. */
  let looking: Promise<void> | null = null
  let isDue = false
  const look = (): Promise<void> => {
    isDue = looking !== null
    looking ??= lookNow().finally(() => {
      looking = null
      if (isDue) void look()
    })
    return looking
  }

  const lookNow = async () => {
    try {
      await follow()
      ;[refused.value, isAway.value] = [null, false]
    } catch (error) {
      const why = asRefused(error)
      isAway.value = awayCodes.has(why.why.code)
      people.value = []
      if (!isAway.value) refused.value = why
      // what was there when there was a connection may still be at hand
      else if (!sheet.value) await loadAll().catch(() => (refused.value = why))
    }
  }
  /** After what somebody changed here. */
  const loadAgain = () => {
    isStale = true
    return look()
  }
  useRepeated(look, everyMs)
  watch(at, () => void look())
  return { sheet, points, people, refused, isAway, look, loadAgain }
}

/** Whether points may be others, or all of them otherwise. */
const isOther = (now: CheckCompany, seen: CheckCompany | null) =>
  !seen || now.revision !== seen.revision || now.points !== seen.points || now.isClosed !== seen.isClosed
