import { noteTags } from '#shared/api/notes'
import { listTags } from '#shared/api/tags'
import type { TagNote } from '#shared/notes'
import type { Tag } from '#shared/tags'
import type { TagFilter } from './useTagFilter'

/** Tags by the page, with the notes on them. */
export const useTagPages = (filter: () => TagFilter & { sort?: string }, seen: (tag: Tag) => void = () => {}) => {
  const notes = shallowReactive(new Map<number, TagNote[]>())
  const pages = usePages<Tag, Awaited<ReturnType<typeof ask>>>(ask, (found) => {
    found.items.forEach(seen)
    if (found.notes) take(found.notes)
    else void wait(found.items)
  })
  let turn = 0

  const take = (found: Record<string, TagNote[]>) => {
    for (const [id, ofTag] of Object.entries(found)) notes.set(Number(id), ofTag)
  }

  /** Rows come before their notes where those are still being worked out. */
  const wait = async (tags: readonly Tag[]) => {
    const mine = turn
    const found = await callApi(noteTags, { body: { ids: tags.map(({ id }) => id) } }).catch(() => ({}))
    if (mine === turn) take(found)
  }

  function ask(offset: number, limit: number) {
    return callApi(listTags, { query: { ...filter(), offset, limit } })
  }

  const refresh = (keep = false) => {
    turn++
    notes.clear()
    return pages.refresh(keep)
  }

  return { ...pages, notes, refresh }
}
