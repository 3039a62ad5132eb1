import { until } from '@vueuse/core'
import { listBridges } from '#shared/api/bridges'
import { listLinks } from '#shared/api/links'
import { listWhole } from '#shared/api/lists'
import { listOutlets } from '#shared/api/outlets'
import { showSite } from '#shared/api/site'
import type { Bridge } from '#shared/bridges/bridge'
import { hasPoints } from '#core/links/registry'
import type { Link } from '#shared/links/link'
import type { Outlet } from '#shared/outlets/outlet'

/** Links, bridges, outlets and the site's name: short lists that every page may need, kept fresh. */
export const useLists = defineStore('lists', () => {
  const live = useLive()
  const links = shallowRef<Link[]>([])
  const bridges = shallowRef<Bridge[]>([])
  const outlets = shallowRef<Outlet[]>([])
  const siteName = ref('')
  const loaded = ref(false)
  let asked = 0

  const refresh = async () => {
    const turn = ++asked
    try {
      const [foundLinks, foundBridges, foundOutlets, site] = await Promise.all([
        callApi(listLinks, { query: { limit: listWhole } }),
        callApi(listBridges, { query: { limit: listWhole } }),
        callApi(listOutlets, { query: { limit: listWhole } }),
        callApi(showSite),
      ])
      if (turn !== asked) return
      links.value = foundLinks.items
      bridges.value = foundBridges.items
      outlets.value = foundOutlets.items
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
  const placeName = (of: 'link' | 'outlet', id: number) =>
    of === 'link' ? linkName(id) : (outlets.value.find((outlet) => outlet.id === id)?.name ?? '—')
  /** Links that tags can read through. */
  const pointLinks = computed(() => links.value.filter(({ kind }) => hasPoints(kind)))
  return { links, pointLinks, bridges, outlets, siteName, loaded, refresh, whenLoaded, linkName, placeName }
})
