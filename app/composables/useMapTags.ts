import type { LiveValue } from '#shared/values'
import type { MapRow } from './useMapRows'
import type { KnownTag } from './usePlaceables'

/** The tags that the lines of a map name, with what those have now on which one rests. */
export const useMapTags = (rows: Readonly<Ref<readonly MapRow[]>>, tags: Readonly<Ref<readonly KnownTag[] | null>>) => {
  const live = useLive()
  const resting = shallowRef<readonly number[]>([])
  const byPath = computed(() => new Map((tags.value ?? []).map((tag) => [tag.path, tag])))
  const tagOf = (row: MapRow) => byPath.value.get(row.cells.path)
  const valueOf = (row: MapRow): LiveValue | undefined => {
    const tag = tagOf(row)
    return tag && live.values.get(tag.id)
  }
  // lines may be on screen before their tags are known, and name others once they are written
  const shown = computed(() => {
    const asked = new Set(resting.value)
    return rows.value.flatMap((row) => (asked.has(row.id) ? (tagOf(row)?.id ?? []) : []))
  })
  watch(
    () => shown.value.join(),
    () => live.show('map', shown.value),
  )
  onUnmounted(() => live.show('map', []))
  return { tagOf, valueOf, rest: (ids: readonly number[]) => (resting.value = ids) }
}
