import { namedBy } from '#core/displays/names'
import type { Pane } from '#core/displays/settings'
import { fillPane, findNamed } from '#shared/api/displays'
import type { ShownTag } from '#shared/displays'
import type { DisplayFeed } from '~/displays/feed'

/** Panes of whoever is signed in: names are looked up as they change, values come live. @param equipment for which; empty: for none */
export const useDisplayFeed = (panes: () => readonly Pane[], equipment: () => string): DisplayFeed => {
  const live = useLive()
  const tags = shallowRef<ReadonlyMap<string, ShownTag>>(new Map())
  let turn = 0
  const named = computed(() => [...new Set(panes().flatMap(({ shows }) => namedBy(shows)))].filter(Boolean))
  const look = async () => {
    const mine = ++turn
    const asked = named.value
    const found = asked.length === 0 ? [] : await callApi(findNamed, { body: { named: [...asked], in: equipment() } }).catch(() => null)
    if (mine === turn && found) tags.value = new Map(found.map((tag) => [tag.named, tag]))
  }
  watch([() => JSON.stringify(named.value), equipment, () => live.changes], look, { immediate: true })
  const ids = computed(() => [...new Set([...tags.value.values()].flatMap(({ id }) => id ?? []))])
  watch(ids, (all) => live.show('display', all), { immediate: true })
  onUnmounted(() => live.show('display', []))

  return {
    tagOf: (one) => tags.value.get(one),
    valueOf: (id) => live.values.get(id),
    now: computed(() => live.status?.now ?? Date.now()),
    isAway: computed(() => live.engineAway || !live.connected),
    hasPages: true,
    fill: ({ shows }, columns) => callApi(fillPane, { body: { shows, in: equipment(), columns } }),
  }
}
