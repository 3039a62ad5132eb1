const pageSize = 100
/** So many pages are asked for together. */
const atOnce = 6

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
  const asked = new Map<number, Promise<void>>()
  let turn = 0

  const load = (page: number): Promise<void> => {
    const under = asked.get(page) ?? bring(page)
    asked.set(page, under)
    return under
  }

  const bring = async (page: number) => {
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

  /** Asks for whatever of these rows is not here yet. Resolves when they are, as far as they can be had. */
  const need = async (first: number, last: number) => {
    const pages = []
    for (let page = Math.floor(first / pageSize); page <= Math.floor(last / pageSize); page++) pages.push(page)
    for (let at = 0; at < pages.length; at += atOnce) await Promise.all(pages.slice(at, at + atOnce).map(load))
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
