import type { CallOutcome } from '#core/calls/call'
import { listCalls } from '#shared/api/calls'
import type { ClientCall } from '#shared/calls'

const atOnce = 200
/** Older ones that the newest push out of the page can be fetched again. */
const mostHere = 1000
const refreshMs = 1000

export interface CallsAsked {
  client: number | undefined
  text: string
  outcome: CallOutcome | null
}

/** A call on the page. */
export interface ShownCall extends ClientCall {
  /** Between this one and the next below it there were others that were not fetched. */
  hasGap?: true
}

/** The calls of an outlet that match, the newest first: kept fresh unless they are held, and followed back as far as the engine has them. */
export const useCalls = (outletId: number, asked: () => CallsAsked) => {
  const calls = shallowRef<ShownCall[]>([])
  const more = ref(false)
  const refused = shallowRef<Refused | null>(null)
  const held = ref(false)
  /** The number of the last call of all, when it was asked for last. */
  let last = 0

  const query = () => {
    const { client, text, outcome } = asked()
    return { client, text: text || undefined, outcome: outcome ?? undefined, limit: atOnce }
  }
  const page = async (place: { after?: number; before?: number }) =>
    callApi(listCalls, { params: { id: outletId }, query: { ...query(), ...place } })
  const key = () => JSON.stringify(query())

  const refresh = async () => {
    const mine = key()
    try {
      const newest = await page({ after: last })
      if (mine !== key()) return
      // an engine that began anew counts anew
      if (newest.last < last) return await startOver()
      const isFirst = last === 0
      last = newest.last
      refused.value = null
      if (isFirst) more.value = newest.calls.length === atOnce
      const fresh: ShownCall[] = [...newest.calls]
      const oldest = fresh.at(-1)
      if (oldest && !isFirst && fresh.length === atOnce) fresh[fresh.length - 1] = { ...oldest, hasGap: true }
      if (fresh.length > 0) calls.value = [...fresh, ...calls.value].slice(0, mostHere)
      if (calls.value.length === mostHere) more.value = true
    } catch (error) {
      refused.value = asRefused(error)
    }
  }
  const startOver = async () => {
    last = 0
    calls.value = []
    more.value = false
    await refresh()
  }
  const older = async () => {
    const oldest = calls.value.at(-1)
    if (!oldest) return
    const found = await page({ before: oldest.n }).catch(() => null)
    if (!found) return
    held.value = true
    calls.value = [...calls.value, ...found.calls]
    more.value = found.calls.length === atOnce
  }
  watch(key, startOver)
  useRepeated(async () => {
    if (!held.value) await refresh()
  }, refreshMs)

  return { calls, more, refused, held, older }
}
