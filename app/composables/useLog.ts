import { useIntervalFn } from '@vueuse/core'

const pageSize = 100
const refreshMs = 2000

/** A growing list, newest first, by the page: kept fresh at its head, and followed back in time. @param queryOf the address of a page. */
export const useLog = <E extends { id: number }>(queryOf: () => { path: string; parts: Record<string, string | null | undefined> }) => {
  const entries = shallowRef<E[]>([])
  const more = ref(true)
  const refused = ref<Refused | null>(null)

  const address = (before?: number) => {
    const { path, parts } = queryOf()
    const given = Object.entries({ ...parts, before: before === undefined ? null : String(before) }).filter(([, value]) => value)
    return `${path}?${new URLSearchParams({ limit: String(pageSize), ...(Object.fromEntries(given) as Record<string, string>) })}`
  }

  /** The newest page; older ones already on screen stay. */
  const refresh = async () => {
    const asked = address()
    try {
      const newest = await callApi<E[]>(asked)
      if (asked !== address()) return
      const oldest = newest.at(-1)?.id ?? 0
      entries.value = [...newest, ...entries.value.filter(({ id }) => id < oldest)]
      refused.value = null
    } catch (error) {
      refused.value = asRefused(error)
    }
  }
  const older = async () => {
    const page = await callApi<E[]>(address(entries.value.at(-1)?.id)).catch(() => [])
    entries.value = [...entries.value, ...page]
    more.value = page.length === pageSize
  }
  const startOver = async () => {
    entries.value = []
    await refresh()
    more.value = entries.value.length === pageSize
  }
  watch(() => address(), startOver, { immediate: true })
  useIntervalFn(refresh, refreshMs)

  return { entries, more, refused, older }
}
