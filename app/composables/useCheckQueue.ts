import { useLocalStorage } from '@vueuse/core'
import { takeChecks } from '#shared/api/checks'
import type { CheckDraft } from '#shared/checks'

const againMs = 3000
/** So many go at once; what waits longer goes in parts. */
const mostAtOnce = 200
/** Evidence that nobody took for so long would fill what a browser keeps. */
const mostBytes = 3_000_000

/** A check with who made it: nobody’s goes out under another name. */
export interface WaitingCheck extends CheckDraft {
  by: string
}

/**
 * Checks of one sheet on their way: kept in this browser until the site has them, so that nothing is lost where there is no
 * connection for a while. What is sent twice counts once.
 */
export const useCheckQueue = (sheet: number, arrived: () => void) => {
  const session = useSession()
  const kept = useLocalStorage<WaitingCheck[]>(`conduit-checks-${sheet}`, [])
  const refused = shallowRef<Refused | null>(null)
  const isAway = ref(false)
  let timer: ReturnType<typeof setTimeout> | undefined
  let isSending = false
  let isGone = false

  const own = computed(() => kept.value.filter(({ by }) => by === session.who?.name))
  /** Of others at this browser: they go when those are signed in again. */
  const others = computed(() => [...new Set(kept.value.filter(({ by }) => by !== session.who?.name).map(({ by }) => by))])

  const add = (check: CheckDraft) => {
    const isFull = JSON.stringify(kept.value).length > mostBytes
    const light = isFull && check.evidence ? { ...check, evidence: { ...check.evidence, frames: [], stages: [] } } : check
    kept.value = [...kept.value, { ...light, by: session.who!.name }]
    void send()
  }
  const send = async () => {
    clearTimeout(timer)
    if (isSending || own.value.length === 0) return
    isSending = true
    const part = own.value.slice(0, mostAtOnce)
    try {
      const checks = part.map(({ by: _, ...check }) => check)
      const { taken, refused: not } = await callApi(takeChecks, { params: { id: sheet }, body: { checks } })
      forget([...taken, ...not.map(({ key }) => key)])
      isAway.value = false
      refused.value = not[0] ? new Refused(not[0].fault, []) : null
      arrived()
    } catch (error) {
      const why = asRefused(error)
      isAway.value = awayCodes.has(why.why.code)
      refused.value = isAway.value ? null : why
    } finally {
      isSending = false
      if (own.value.length > 0 && !isGone) timer = setTimeout(() => void send(), againMs)
    }
  }
  const forget = (keys: readonly string[]) => {
    const done = new Set(keys)
    kept.value = kept.value.filter(({ key }) => !done.has(key))
  }
  onMounted(() => void send())
  onUnmounted(() => {
    isGone = true
    clearTimeout(timer)
  })
  return { waiting: own, others, refused, isAway, add, forget }
}

/** Of refusals that say that somebody is not there just now. */
export const awayCodes = new Set<string>(['web.away', 'database.away', 'engine.away'])
