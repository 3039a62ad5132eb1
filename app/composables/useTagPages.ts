import { listTags } from '#shared/api/tags'
import type { TagNote } from '#shared/notes'
import type { Tag } from '#shared/tags'
import type { TagFilter } from './useTagFilter'

/** Tags by the page, with the notes on them. */
export const useTagPages = (filter: () => TagFilter, seen: (tag: Tag) => void = () => {}) => {
  const notes = shallowReactive(new Map<number, TagNote[]>())
  const pages = usePages<Tag, Awaited<ReturnType<typeof ask>>>(ask, (found) => {
    found.items.forEach(seen)
    for (const [id, ofTag] of Object.entries(found.notes)) notes.set(Number(id), ofTag)
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
