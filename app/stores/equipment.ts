import { until } from '@vueuse/core'
import { Model } from '#core/equipment/model'
import { listClasses, listEquipment } from '#shared/api/equipment'
import { listWhole } from '#shared/api/lists'
import type { Equipment, EquipmentClass } from '#shared/equipment/equipment'

/** Equipment and its classes, kept fresh while a page shows them. */
export const useEquipment = defineStore('equipment', () => {
  const live = useLive()
  const classes = shallowRef<EquipmentClass[]>([])
  const equipment = shallowRef<Equipment[]>([])
  const loaded = ref(false)
  let asked = 0

  const refresh = async () => {
    const turn = ++asked
    try {
      const [foundClasses, found] = await Promise.all([
        callApi(listClasses, { query: { limit: listWhole } }),
        callApi(listEquipment, { query: { limit: listWhole } }),
      ])
      if (turn !== asked) return
      classes.value = foundClasses.items
      equipment.value = found.items
      loaded.value = true
    } catch {
      // the strip says what is away; the next change or reconnection asks again
    }
  }
  watch(() => live.changes, refresh, { immediate: true })

  const model = computed(() => new Model(classes.value, equipment.value))
  /** Resolves once they are there; gives up quietly after a while. */
  const whenLoaded = () => until(loaded).toBe(true, { timeout: 10_000 })
  return { classes, equipment, model, loaded, refresh, whenLoaded }
})
