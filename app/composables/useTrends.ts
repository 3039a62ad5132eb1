import { tagTrends } from '#shared/api/watch'
import type { TagTrend } from '#shared/watch'

export const shownSeconds = 300
const lookEveryMs = 1000

/** How tags went in the last five minutes: the first answer brings it whole, later ones what came since. */
export const useTrends = (ids: () => readonly number[]) => {
  const trends = shallowReactive(new Map<number, TagTrend>())
  const refused = shallowRef<Refused | null>(null)
  let asked = ''
  let after = 0

  const look = async () => {
    const wanted = [...ids()]
    if (wanted.length === 0) return trends.clear()
    if (asked !== String(wanted)) after = 0
    asked = String(wanted)
    try {
      const answer = await callApi(tagTrends, { body: { ids: wanted, after } })
      refused.value = null
      take(answer)
    } catch (error) {
      refused.value = asRefused(error)
      after = 0
    }
  }
  const take = (answer: readonly TagTrend[]) => {
    const there = new Set(answer.map(({ id }) => id))
    for (const id of trends.keys()) if (!there.has(id)) trends.delete(id)
    for (const trend of answer) trends.set(trend.id, goneOn(trends.get(trend.id), trend))
    // the last second was not over yet
    after = Math.max(0, ...answer.map(({ from, lows }) => from + lows.length - 1))
  }
  useRepeated(look, lookEveryMs)
  return { trends, refused }
}

/** What is known, and what came since; seconds that were told again are as they were told last. */
export const goneOn = (known: TagTrend | undefined, told: TagTrend): TagTrend => {
  const kept = known && known.since === told.since ? told.from - known.from : -1
  if (!known || kept < 0 || kept > known.lows.length) return told
  const lows = [...known.lows.slice(0, kept), ...told.lows].slice(-shownSeconds)
  const highs = [...known.highs.slice(0, kept), ...told.highs].slice(-shownSeconds)
  return { ...told, lows, highs, from: told.from + told.lows.length - lows.length }
}
