import { useIntervalFn } from '@vueuse/core'
import type { AnswerOf, Given } from '#shared/api/operation'
import type { listAlarmEvents } from '#shared/api/alarms'
import type { listDeeds, listJournal } from '#shared/api/journal'
import type { listWrites } from '#shared/api/site'

const pageSize = 100
const refreshMs = 2000

/** A list of what goes on, newest first, by the page: kept fresh at its head, and followed back in time. */
export const useLog = <O extends typeof listJournal | typeof listWrites | typeof listDeeds | typeof listAlarmEvents>(
  operation: O,
  filter: () => NonNullable<Given<O>['query']>,
) => {
  type Entry = AnswerOf<O>['items'][number]
  const entries = shallowRef<Entry[]>([])
  const more = ref(true)
  const refused = ref<Refused | null>(null)

  const page = async (before?: number): Promise<Entry[]> => {
    const query = { ...filter(), limit: pageSize, before }
    return (await callApi(operation as typeof listJournal, { query })).items as Entry[]
  }
  const asked = () => JSON.stringify(filter())

  /** The newest page; older ones already on screen stay. */
  const refresh = async () => {
    const mine = asked()
    try {
      const newest = await page()
      if (mine !== asked()) return
      const oldest = newest.at(-1)?.id ?? 0
      entries.value = [...newest, ...entries.value.filter(({ id }) => id < oldest)]
      refused.value = null
    } catch (error) {
      refused.value = asRefused(error)
    }
  }
  const older = async () => {
    const found = await page(entries.value.at(-1)?.id).catch(() => [])
    entries.value = [...entries.value, ...found]
    more.value = found.length === pageSize
  }
  const startOver = async () => {
    entries.value = []
    await refresh()
    more.value = entries.value.length === pageSize
  }
  watch(asked, startOver, { immediate: true })
  useIntervalFn(refresh, refreshMs)

  return { entries, more, refused, older }
}
