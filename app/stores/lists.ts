import { until } from '@vueuse/core'
import type { Link } from '#shared/links/link'
import type { Outlet } from '#shared/outlets/outlet'

/** Links, outlets and the site's name: short lists that every page may need, kept fresh. */
export const useLists = defineStore('lists', () => {
  const live = useLive()
  const links = shallowRef<Link[]>([])
  const outlets = shallowRef<Outlet[]>([])
  const siteName = ref('')
  const loaded = ref(false)
  let asked = 0

  const refresh = async () => {
    const turn = ++asked
    try {
      const [foundLinks, foundOutlets, site] = await Promise.all([
        callApi<Link[]>('/links'),
        callApi<Outlet[]>('/outlets'),
        callApi<{ name: string }>('/site'),
      ])
      if (turn !== asked) return
      links.value = foundLinks
      outlets.value = foundOutlets
      siteName.value = site.name
      loaded.value = true
    } catch {
      // the strip says what is away; the next change or reconnection asks again
    }
  }

  watch(() => live.changes, refresh, { immediate: true })

  /** Resolves once the lists are there; gives up quietly after a while, for the page tells what is away. */
  const whenLoaded = () => until(loaded).toBe(true, { timeout: 10_000 })

  const linkName = (id: number) => links.value.find((link) => link.id === id)?.name ?? '—'
  return { links, outlets, siteName, loaded, refresh, whenLoaded, linkName }
})
