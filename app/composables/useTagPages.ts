import { listTags } from '#shared/api/tags'
import type { Tag } from '#shared/tags'

export interface TagFilter {
  link: number | null
  source: string | null
  below: string
  find: string
}

/** Tags by the page, with the notes on their addresses. */
export const useTagPages = (filter: () => TagFilter) => {
  const notes = shallowReactive(new Map<number, string>())
  const pages = usePages<Tag, Awaited<ReturnType<typeof ask>>>(ask, (found) => {
    for (const [id, note] of Object.entries(found.notes)) notes.set(Number(id), note)
  })

  function ask(offset: number, limit: number) {
    return callApi(listTags, { query: { ...filter(), offset, limit } })
  }

  const refresh = (keep = false) => {
    notes.clear()
    return pages.refresh(keep)
  }

  return { ...pages, notes, refresh }
}
