import { applyImport, putImportAway, readImportAgain, sendTable, showImport } from '#shared/api/imports'
import type { ImportSettings, ImportStatus } from '#shared/imports'

/** So long an answer may wait for work to be done before it tells how far that is. */
const waitMs = 400

/** A table of tags on its way in: sent, read, looked through, applied, or put away. */
export const useImport = () => {
  const route = useRoute()
  const router = useRouter()
  const notices = useNotices()
  const status = shallowRef<ImportStatus | null>(null)
  const refused = ref<Refused | null>(null)
  const sending = ref(false)
  const isBusy = computed(() => sending.value || status.value?.state === 'reading' || status.value?.state === 'applying')

  const tried = async (work: () => Promise<ImportStatus | null>) => {
    try {
      status.value = await work()
      refused.value = null
    } catch (error) {
      refused.value = asRefused(error)
      if (refused.value.why.code === 'import.gone') status.value = null
    }
  }

  /** Follows what goes on until it is done. */
  const follow = async () => {
    for (let one = status.value; one && ['reading', 'applying'].includes(one.state); one = status.value) {
      const { id } = one
      await tried(() => callApi(showImport, { params: { id }, query: { wait: waitMs } }))
      if (refused.value) return
    }
  }

  const open = async (id: number) => {
    await tried(() => callApi(showImport, { params: { id } }))
    await follow()
  }

  const send = async (name: string, body: Blob, settings: Partial<Pick<ImportSettings, 'below' | 'link'>> = {}) => {
    sending.value = true
    await tried(() => callApi(sendTable, { query: { name: name.slice(0, 240), ...settings }, body }, { timeoutMs: 120_000 }))
    sending.value = false
    if (!status.value || refused.value) return
    await router.replace({ query: { ...route.query, id: status.value.id } })
    await follow()
  }

  const change = async (settings: Partial<ImportSettings>) => {
    const one = status.value
    if (!one) return
    await tried(() => callApi(readImportAgain, { params: { id: one.id }, body: { ...one.settings, ...settings } }))
    await follow()
  }

  const apply = async (without: string[]) => {
    const one = status.value
    if (!one) return
    await tried(() => callApi(applyImport, { params: { id: one.id }, body: { without } }))
    await follow()
  }

  const putAway = async () => {
    const one = status.value
    status.value = null
    refused.value = null
    const wasApplied = one?.state === 'applied'
    const put = one && (await callApi(putImportAway, { params: { id: one.id } }).catch(() => null))
    if (put?.revision && !wasApplied) notices.tell(`${one!.name} was applied already.`, put.revision)
    await router.replace({ query: { ...route.query, id: undefined } })
  }

  return { status, refused, isBusy, open, send, change, apply, putAway }
}
