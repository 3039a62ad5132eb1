import { until } from '@vueuse/core'
import { listBridges } from '#shared/api/bridges'
import { listLinks } from '#shared/api/links'
import { listWhole } from '#shared/api/lists'
import { listRecordSets } from '#shared/api/recordSets'
import type { RecordSet } from '#shared/records/recordSet'
import { listOutlets } from '#shared/api/outlets'
import { showSite } from '#shared/api/site'
import type { CaseHead } from '#shared/handover'
import type { Bridge } from '#shared/bridges/bridge'
import { hasPoints, protocolOf } from '#core/links/registry'
import type { Link } from '#shared/links/link'
import type { Outlet } from '#shared/outlets/outlet'

/** Links, bridges, outlets and the site's name: short lists that every page may need, kept fresh. */
export const useLists = defineStore('lists', () => {
  const live = useLive()
  const links = shallowRef<Link[]>([])
  const bridges = shallowRef<Bridge[]>([])
  const outlets = shallowRef<Outlet[]>([])
  const recordSets = shallowRef<RecordSet[]>([])
  const siteName = ref('')
  const siteZone = ref('')
  const siteCase = shallowRef<CaseHead | null>(null)
  const loaded = ref(false)
  let asked = 0

  const refresh = async () => {
    const turn = ++asked
    try {
      const [foundLinks, foundBridges, foundOutlets, foundSets, site] = await Promise.all([
        callApi(listLinks, { query: { limit: listWhole } }),
        callApi(listBridges, { query: { limit: listWhole } }),
        callApi(listOutlets, { query: { limit: listWhole } }),
        callApi(listRecordSets, { query: { limit: listWhole } }),
        callApi(showSite),
      ])
      if (turn !== asked) return
      links.value = foundLinks.items
      bridges.value = foundBridges.items
      outlets.value = foundOutlets.items
      recordSets.value = foundSets.items
      siteName.value = site.name
      siteZone.value = site.zone
      siteCase.value = site.case
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
  /** Links whose rows can be asked for. */
  const rowLinks = computed(() => links.value.filter(({ kind }) => protocolOf(kind).capabilities.receives === 'table'))
  return {
    links,
    pointLinks,
    rowLinks,
    recordSets,
    bridges,
    outlets,
    siteName,
    siteZone,
    siteCase,
    loaded,
    refresh,
    whenLoaded,
    linkName,
    placeName,
  }
})
