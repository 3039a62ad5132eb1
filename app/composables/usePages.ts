const pageSize = 100

interface Page<T> {
  total: number
  offset: number
  items: T[]
}

/** A list by the page, as far as it was looked at: one of any length costs what is on screen. */
export const usePages = <T, P extends Page<T> = Page<T>>(
  ask: (offset: number, limit: number) => Promise<P>,
  taken: (page: P) => void = () => {},
) => {
  const total = ref(0)
  const loaded = ref(false)
  const refused = ref<Refused | null>(null)
  const rows = shallowReactive(new Map<number, T>())
  const asked = new Set<number>()
  let turn = 0

  const load = async (page: number) => {
    if (asked.has(page)) return
    asked.add(page)
    const mine = turn
    try {
      const found = await ask(page * pageSize, pageSize)
      if (mine !== turn) return
      total.value = found.total
      found.items.forEach((item, index) => rows.set(found.offset + index, item))
      taken(found)
      loaded.value = true
      refused.value = null
    } catch (error) {
      asked.delete(page)
      if (mine === turn) refused.value = asRefused(error)
    }
  }

  /** Asks for whatever of these rows is not here yet. */
  const need = (first: number, last: number) => {
    for (let page = Math.floor(first / pageSize); page <= Math.floor(last / pageSize); page++) void load(page)
  }

  /** Starts over. What is on screen may stay until the new rows come, so that nothing jumps. */
  const refresh = async (keep = false) => {
    turn++
    asked.clear()
    if (!keep) rows.clear()
    const mine = turn
    await load(0)
    if (mine !== turn) return
    for (const index of rows.keys()) if (index >= total.value) rows.delete(index)
  }

  return { total, loaded, refused, rows, need, refresh }
}
