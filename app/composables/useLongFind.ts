import { branch, search } from '#shared/api/links'
import type { BranchPart, FailedPlace, FoundPlace, Place } from '#shared/browse'

/** Finding by name, and taking a whole branch: long work at the far side, with its progress and a stop. What came stays. */
export const useLongFind = (linkId: number) => {
  const found = shallowRef<FoundPlace[] | null>(null)
  const looked = ref(0)
  /** Places that the far side did not show: what lies below them is missing. */
  const failed = shallowRef<FailedPlace[]>([])
  const working = ref<'search' | 'branch' | null>(null)
  const problem = shallowRef<Refused | null>(null)
  let abort: AbortController | null = null
  const stop = () => {
    abort?.abort()
    working.value = null
  }
  onUnmounted(stop)

  const work = async (kind: 'search' | 'branch', run: (signal: AbortSignal) => Promise<void>) => {
    abort?.abort()
    const mine = new AbortController()
    abort = mine
    working.value = kind
    looked.value = 0
    failed.value = []
    try {
      await run(mine.signal)
      problem.value = null
    } catch (error) {
      if (!mine.signal.aborted) problem.value = asRefused(error)
    } finally {
      if (abort === mine) working.value = null
    }
  }
  const note = (part: { looked: number; failed: FailedPlace[] }) => {
    looked.value = part.looked
    failed.value = [...failed.value, ...part.failed]
  }

  /** An empty text shows everything again. */
  const find = (text: string, came: (found: readonly FoundPlace[]) => void) => {
    if (text.trim() === '') {
      found.value = null
      return stop()
    }
    void work('search', async (signal) => {
      found.value = []
      for await (const part of streamApi(search, { params: { id: linkId }, body: { text } }, signal)) {
        note(part)
        if (part.found.length === 0) continue
        found.value = [...(found.value ?? []), ...part.found]
        came(found.value)
      }
    })
  }
  const takeBranch = ({ address, member }: Place, came: (points: BranchPart['points']) => void) =>
    work('branch', async (signal) => {
      for await (const part of streamApi(branch, { params: { id: linkId }, body: { address, member } }, signal)) {
        note(part)
        came(part.points)
      }
    })
  return { found, looked, failed, working, problem, stop, find, takeBranch }
}
