import { revisionEffect, takeBackRevision } from '#shared/api/site'
import type { Effect } from '#shared/status'

/** A line at the foot of the page after something was done, with what became of it and the way to take it back. */
export const useNotices = defineStore('notices', () => {
  const text = ref('')
  const revision = ref<number | null>(null)
  const isProblem = ref(false)
  /** Counts them, so that each is shown for a time of its own, also one that comes before the last is gone. */
  const turn = ref(0)

  const tell = (what: string, ofRevision: number | null = null) => {
    turn.value++
    text.value = what
    revision.value = ofRevision
    isProblem.value = false
    if (ofRevision !== null) void follow(what, ofRevision)
  }

  /** Saved is one thing, in force another: the line goes on once that is known. */
  const follow = async (what: string, ofRevision: number) => {
    const effect = await callApi(revisionEffect, { params: { number: ofRevision } }).catch(() => null)
    if (effect === null || text.value !== what || revision.value !== ofRevision) return
    text.value = `${what} ${effectText(effect)}`
    isProblem.value = effect.state === 'in part'
  }

  const tellProblem = (what: string) => {
    tell(what)
    isProblem.value = true
  }

  const takeBack = async () => {
    if (revision.value === null) return
    try {
      await callApi(takeBackRevision, { params: { number: revision.value } })
      tell('Taken back.')
    } catch (error) {
      tellProblem(asRefused(error).why.what)
    }
  }

  return { text, revision, isProblem, turn, tell, tellProblem, takeBack }
})

const effectText = ({ state, node, waits, things }: Effect): string => {
  if (state === 'in force')
    return waits.length > 0 ? `In force on ${node}; waits for ${waits.join(', ')} to be connected.` : `In force on ${node}.`
  if (state === 'in part')
    return `Not in force${things.length > 1 ? ` in ${things.length} parts` : ''}: ${things[0]!.fault.what} ${things[0]!.fault.next}`
  if (state === 'held') return 'Saved, and held back: the database is not the one that is in force. Decide on Site.'
  return state === 'not yet' ? 'The engine has not come to it yet.' : 'The engine is away; it takes effect when it is back.'
}
