import type { Tag } from '#shared/tags'

export interface TagFilter {
  link: number | null
  source: string | null
  below: string
  find: string
}

interface TagPage {
  total: number
  offset: number
  tags: Tag[]
  notes: Record<number, string>
}

const pageSize = 100

/** Tags by the page, as far as they were looked at: a list of any length costs what is on screen. */
export const useTagPages = (filter: () => TagFilter) => {
  const total = ref(0)
  const loaded = ref(false)
  const refused = ref<Refused | null>(null)
  const rows = shallowReactive(new Map<number, Tag>())
  const notes = shallowReactive(new Map<number, string>())
  const asked = new Set<number>()
  let turn = 0

  const query = (offset: number) => {
    const { link, source, below, find } = filter()
    const parts = new URLSearchParams({ offset: String(offset), limit: String(pageSize) })
    if (link !== null) parts.set('link', String(link))
    if (source !== null) parts.set('source', source)
    if (below) parts.set('below', below)
    if (find) parts.set('find', find)
    return `/tags?${parts}`
  }

  const load = async (page: number) => {
    if (asked.has(page)) return
    asked.add(page)
    const mine = turn
    try {
      const found = await callApi<TagPage>(query(page * pageSize))
      if (mine !== turn) return
      total.value = found.total
      found.tags.forEach((tag, index) => rows.set(found.offset + index, tag))
      for (const [id, note] of Object.entries(found.notes)) notes.set(Number(id), note)
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

  /** Starts over. What is on screen stays until the new rows come, so that nothing jumps. */
  const refresh = async (keep = false) => {
    turn++
    asked.clear()
    notes.clear()
    if (!keep) rows.clear()
    const mine = turn
    await load(0)
    if (mine !== turn) return
    for (const index of rows.keys()) if (index >= total.value) rows.delete(index)
  }

  return { total, loaded, refused, rows, notes, need, refresh }
}
