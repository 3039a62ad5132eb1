import { findWaysIn } from '#shared/api/links'
import { useDebounceFn } from '@vueuse/core'
import type { FoundBy } from '#shared/links/found'
import type { LinkDraft } from '#shared/links/link'

/** Asks the far side which ways in it offers, soon after its address was typed. The newest question counts. */
export const useOffers = (draft: () => LinkDraft | null, linkId: () => number | null) => {
  const found = shallowRef<FoundBy['opcua'] | null>(null)
  const problem = shallowRef<Refused | null>(null)
  const asking = ref(false)
  const foundAt = ref<number | null>(null)
  let turn = 0

  const ask = async () => {
    const link = draft()
    const mine = ++turn
    if (!link) return
    asking.value = true
    try {
      const answer = await callApi(findWaysIn, { body: { link, linkId: linkId() } })
      if (mine !== turn) return
      found.value = answer
      problem.value = null
      foundAt.value = Date.now()
    } catch (error) {
      if (mine !== turn) return
      found.value = null
      problem.value = asRefused(error)
    } finally {
      if (mine === turn) asking.value = false
    }
  }

  const forget = () => {
    turn++
    found.value = null
    problem.value = null
    asking.value = false
  }

  return { found, problem, asking, foundAt, ask, askSoon: useDebounceFn(ask, 600), forget }
}
