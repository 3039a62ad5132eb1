import { knownTags } from '#shared/api/tags'
import { commonDepth, pathFrom, type NamingStyle } from '#core/tags/naming'
import { pathProblem } from '#core/tags/path'
import type { PlaceDetails } from '#shared/browse'
import { takenPoint } from '#shared/takenPoint'
import type { TagDraft } from '#shared/tags'

interface Picked {
  names: readonly string[]
  details: PlaceDetails
}

export interface TrayRow extends Picked {
  key: string
  path: string
  /** What stands in the way; empty when nothing does. */
  note: string
  blocked: boolean
}

interface Known {
  paths: string[]
  points: { address: string | null; member: string; path: string }[]
}

/** What will become tags: picked points with the paths they would get, before anything is made. */
export const useTray = (linkId: number) => {
  const picked = shallowReactive(new Map<string, Picked>())
  const below = ref('')
  const style = ref<NamingStyle>('lower')
  const leaveOut = ref<number | null>(null)
  const interval = ref<number | null>(null)
  const own = shallowReactive(new Map<string, string>())
  const known = shallowRef<Known>({ paths: [], points: [] })

  const depth = computed(() => leaveOut.value ?? commonDepth([...picked.values()].map(({ names }) => names)))
  const rows = computed<TrayRow[]>(() => {
    const taken = new Set(known.value.paths)
    const mapped = new Map(known.value.points.map(({ address, member, path }) => [placeKey({ address: address ?? '', member }), path]))
    const seen = new Set<string>()
    return [...picked].map(([key, point]) => {
      const path = own.get(key) ?? pathFrom(below.value, point.names, depth.value, style.value)
      const note = noteFor(path, seen, taken, mapped.get(key))
      seen.add(path)
      return { ...point, key, path, ...note }
    })
  })

  const add = (names: readonly string[], details: PlaceDetails) => {
    if (details.type !== null) picked.set(placeKey(details), { names, details })
  }
  const remove = (key: string) => {
    picked.delete(key)
    own.delete(key)
  }
  const clear = () => {
    picked.clear()
    own.clear()
  }

  /** Which paths and points the site has already. */
  const compare = async () => {
    const points = rows.value.map(({ details: { address, member } }) => ({ address, member }))
    const paths = rows.value.map(({ path }) => path)
    known.value = points.length === 0 ? { paths: [], points: [] } : await callApi(knownTags, { body: { linkId, points, paths } })
  }

  const drafts = computed<TagDraft[]>(() =>
    rows.value
      .filter(({ blocked }) => !blocked)
      .map(({ path, details }) => takenPoint(path, details, { linkId, interval: interval.value })),
  )
  return { picked, below, style, leaveOut, depth, interval, rows, drafts, own, add, remove, clear, compare }
}

const noteFor = (path: string, seen: Set<string>, taken: Set<string>, mapped: string | undefined) => {
  const problem = pathProblem(path)
  if (problem) return { note: problem, blocked: true }
  if (mapped) return { note: `already a tag: ${mapped}`, blocked: true }
  if (taken.has(path)) return { note: 'another tag has this path', blocked: true }
  if (seen.has(path)) return { note: 'this path stands here twice', blocked: true }
  return { note: '', blocked: false }
}
