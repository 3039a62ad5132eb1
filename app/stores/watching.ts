import { useLocalStorage } from '@vueuse/core'
import { changeWatched, changeWatchList, listWatchLists, makeWatchList, removeWatchList } from '#shared/api/watch'
import { counted } from '#core/text/counted'
import type { WatchList } from '#shared/watch'

/** The watch lists of whoever is signed in, and those that others share. */
export const useWatching = defineStore('watching', () => {
  const lists = shallowRef<WatchList[]>([])
  const loaded = ref(false)
  /** The list that `w` adds to: the one that was open last, else the first of one's own. */
  const current = useLocalStorage<number | null>('conduit-watch-list', null)
  const notices = useNotices()
  const own = computed(() => lists.value.filter(({ mine }) => mine))
  const target = computed(() => own.value.find(({ id }) => id === current.value) ?? own.value[0])

  const load = async () => {
    lists.value = (await callApi(listWatchLists, { query: { limit: 500 } })).items
    loaded.value = true
  }
  const put = (list: WatchList) => {
    lists.value = lists.value.some(({ id }) => id === list.id)
      ? lists.value.map((one) => (one.id === list.id ? list : one))
      : [...lists.value, list]
  }
  const make = async (name: string, tags: number[] = []) => {
    const made = await callApi(makeWatchList, { body: { name, tags } })
    put(made)
    current.value = made.id
    return made
  }
  const change = async ({ id, name, shared, tags }: WatchList) => {
    put(await callApi(changeWatchList, { params: { id }, body: { name, shared, tags } }))
  }
  const remove = async (id: number) => {
    await callApi(removeWatchList, { params: { id } })
    lists.value = lists.value.filter((one) => one.id !== id)
    if (current.value === id) current.value = null
  }
  const alter = async (id: number, tags: { add?: number[]; remove?: number[] }) =>
    put(await callApi(changeWatched, { params: { id }, body: tags }))

  /** Adds to the current list, which is made where there is none; says so. */
  const watchTags = async (ids: number[]) => {
    try {
      if (!loaded.value) await load()
      const list = target.value ?? (await make('My watch list'))
      const before = list.tags.length
      await alter(list.id, { add: ids })
      const added = lists.value.find(({ id }) => id === list.id)!.tags.length - before
      notices.tell(added === 0 ? `“${list.name}” has it already.` : `${counted(added, 'tag')} added to “${list.name}”.`)
    } catch (error) {
      notices.tellProblem(asRefused(error).why.what)
    }
  }

  return { lists, loaded, current, own, target, load, make, change, remove, alter, watchTags }
})
