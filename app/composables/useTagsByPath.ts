import { useDebounceFn } from '@vueuse/core'
import { listTags } from '#shared/api/tags'
import type { LiveValue } from '#shared/values'
import type { Tag } from '#shared/tags'

/** Tags by their paths, with what they have now; those that are not there are absent. */
export const useTagsByPath = (part: string, paths: () => readonly string[]) => {
  const live = useLive()
  const tags = shallowReactive(new Map<string, Tag>())
  const look = async () => {
    const missing = paths().filter((path) => path !== '' && !tags.has(path))
    const found = await Promise.all(missing.map((path) => tagAt(path)))
    for (const tag of found) if (tag) tags.set(tag.path, tag)
    live.show(
      part,
      paths().flatMap((path) => tags.get(path)?.id ?? []),
    )
  }
  const lookSoon = useDebounceFn(look, 250)
  watch(
    () => paths().join('\n'),
    () => void lookSoon(),
    { immediate: true },
  )
  onUnmounted(() => live.show(part, []))
  const valueOf = (path: string): LiveValue | undefined => {
    const tag = tags.get(path)
    return tag && live.values.get(tag.id)
  }
  return { tags, valueOf }
}

const tagAt = async (path: string): Promise<Tag | undefined> => {
  const { items } = await callApi(listTags, { query: { find: path, limit: 100 } }).catch(() => ({ items: [] as Tag[] }))
  return items.find((tag) => tag.path === path)
}
