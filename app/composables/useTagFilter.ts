import { refDebounced } from '@vueuse/core'

/** Which tags a page is about: what the address of the page says, and the words that are typed. */
export const useTagFilter = () => {
  const route = useRoute()
  const router = useRouter()
  const asked = (name: string) => (route.query[name] ? String(route.query[name]) : null)
  const find = ref('')
  const settledFind = refDebounced(find, 250)
  const link = computed(() => (route.query.link ? Number(route.query.link) : null))
  const filter = computed(() => ({
    link: link.value,
    source: asked('source'),
    below: asked('below') ?? '',
    access: asked('access'),
    quality: asked('quality'),
    noted: asked('noted'),
    find: settledFind.value,
  }))
  const sort = computed(() => asked('sort') ?? 'path')
  /** Beyond the folder and the words. */
  const isNarrowed = computed(
    () => !!(link.value ?? filter.value.source ?? filter.value.access ?? filter.value.quality ?? filter.value.noted),
  )
  const set = (query: Record<string, string | null>) => {
    const given = Object.entries({ ...route.query, ...query }).filter(([, value]) => value !== null && value !== '')
    return router.replace({ query: Object.fromEntries(given) })
  }
  return { find, filter, sort, isNarrowed, set }
}

export type TagFilter = ReturnType<typeof useTagFilter>['filter']['value']
