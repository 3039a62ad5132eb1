import { until } from '@vueuse/core'
import { listDisplays } from '#shared/api/displays'
import { listWhole } from '#shared/api/lists'
import type { Display } from '#shared/displays'

/** All displays, kept fresh while a page shows them. */
export const useDisplays = defineStore('displays', () => {
  const live = useLive()
  const displays = shallowRef<Display[]>([])
  const loaded = ref(false)
  let asked = 0
  const refresh = async () => {
    const turn = ++asked
    try {
      const { items } = await callApi(listDisplays, { query: { limit: listWhole } })
      if (turn !== asked) return
      displays.value = items
      loaded.value = true
    } catch {
      // the strip says what is away; the next change or reconnection asks again
    }
  }
  watch(() => live.changes, refresh, { immediate: true })
  /** Resolves once they are there; gives up quietly after a while. */
  const whenLoaded = () => until(loaded).toBe(true, { timeout: 10_000 })
  return { displays, loaded, refresh, whenLoaded }
})
