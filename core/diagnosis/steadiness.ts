import { duration } from '../text/duration'

/** A time in which a path worked, and how it ended. */
export interface Break {
  /** Unix ms. */
  at: number
  /** How long it had worked, ms. */
  heldMs: number
  /** How long nothing had passed before the first piece that nobody answered, ms; null: it did not end that way, or nobody saw. */
  quietMs: number | null
}

/** A path that works now is called unsteady after so many breaks within so long. */
const breaksOfUnsteady = 3
const unsteadyWithin = 600_000

/** The breaks of late, where there are so many that a path cannot be called sound although it works now; null: it can. */
export const unsteadyOf = (breaks: readonly Break[], now: number): readonly Break[] | null => {
  const late = breaks.filter(({ at }) => now - at < unsteadyWithin)
  return late.length >= breaksOfUnsteady ? late : null
}

export const heldText = (breaks: readonly Break[]): string => {
  const held = breaks.map(({ heldMs }) => heldMs)
  const [least, most] = [duration(Math.min(...held)), duration(Math.max(...held))]
  return least === most ? `about ${least}` : `${least} to ${most}`
}

/** After about the same time each time, ms; null: no. What ends sooner has other reasons. */
export const cutAfter = (breaks: readonly Break[]): number | null => {
  if (breaks.length < 2) return null
  const held = breaks.map(({ heldMs }) => heldMs)
  const [least, most] = [Math.min(...held), Math.max(...held)]
  return least >= 20_000 && most <= 1.25 * least + 5000 ? Math.round((least + most) / 2) : null
}

/** Each time at the first piece after nothing had passed for so long, ms (the shortest of these pauses); null: no. */
export const brokeAfterQuiet = (breaks: readonly Break[]): number | null => {
  if (breaks.length < 2) return null
  const isFirst = ({ heldMs, quietMs }: Break) => quietMs !== null && quietMs >= 2000 && heldMs <= 1.6 * quietMs + 3000
  return breaks.every(isFirst) ? Math.min(...breaks.map(({ quietMs }) => quietMs!)) : null
}
