import { useLocalStorage } from '@vueuse/core'
import { takeChecks } from '#shared/api/checks'
import type { CheckDraft } from '#shared/checks'

const againMs = 3000
/** So many go at once; what waits longer goes in parts. */
const mostAtOnce = 200

/**
 * Checks of one sheet on their way: kept in this browser until the site has them, so that nothing is lost where there is no
 * connection for a while. What is sent twice counts once.
 */
export const useCheckQueue = (sheet: number, arrived: () => void) => {
  const waiting = useLocalStorage<CheckDraft[]>(`conduit-checks-${sheet}`, [])
  const refused = shallowRef<Refused | null>(null)
  const isAway = ref(false)
  let timer: ReturnType<typeof setTimeout> | undefined
  let isSending = false
  let isGone = false

  const add = (check: CheckDraft) => {
    waiting.value = [...waiting.value, check]
    void send()
  }
  const send = async () => {
    clearTimeout(timer)
    if (isSending || waiting.value.length === 0) return
    isSending = true
    const part = waiting.value.slice(0, mostAtOnce)
    try {
      const { taken, refused: not } = await callApi(takeChecks, { params: { id: sheet }, body: { checks: part } })
      const done = new Set([...taken, ...not.map(({ key }) => key)])
      waiting.value = waiting.value.filter(({ key }) => !done.has(key))
      isAway.value = false
      refused.value = not[0] ? new Refused(not[0].fault, []) : null
      arrived()
    } catch (error) {
      const why = asRefused(error)
      isAway.value = awayCodes.has(why.why.code)
      refused.value = isAway.value ? null : why
    } finally {
      isSending = false
      if (waiting.value.length > 0 && !isGone) timer = setTimeout(() => void send(), againMs)
    }
  }
  onMounted(() => void send())
  onUnmounted(() => {
    isGone = true
    clearTimeout(timer)
  })
  return { waiting, refused, isAway, add }
}

const awayCodes = new Set<string>(['web.away', 'database.away', 'engine.away'])
