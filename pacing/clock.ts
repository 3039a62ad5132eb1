/**
 * Milliseconds on a clock that nobody sets: for what is due, and for how long something took. It counts from about the same moment as
 * Unix time, and only differences of it mean anything.
 */
export const steadyNow = (): number => performance.timeOrigin + performance.now()

/** As Unix time, to be shown: a moment of the clock that nobody sets. */
export const wallOf = (steady: number): number => Date.now() + Math.round(steady - steadyNow())

const lookMs = 500
/** What a clock is brought right by little by little is no jump. */
const leastMs = 1000

type Listener = (by: number) => void

const listeners = new Set<Listener>()
let timer: NodeJS.Timeout | null = null
let ahead = 0

const aheadNow = () => Date.now() - steadyNow()

/**
 * Tells by how many milliseconds the clock of this machine was set, within half a second: ahead (also where the machine itself stood
 * still, and its steady clock with it), or back (negative). @returns how to end it
 */
export const onClockSet = (listener: Listener): (() => void) => {
  if (!timer) {
    ahead = aheadNow()
    timer = setInterval(look, lookMs)
    timer.unref()
  }
  listeners.add(listener)
  return () => {
    listeners.delete(listener)
    if (listeners.size > 0 || !timer) return
    clearInterval(timer)
    timer = null
  }
}

const look = () => {
  // read twice: a process that is held up between the two readings sees a jump that is none
  const by = Math.abs(aheadNow() - ahead) < leastMs ? 0 : aheadNow() - ahead
  if (Math.abs(by) < leastMs) {
    ahead = aheadNow()
    return
  }
  ahead += by
  for (const listener of [...listeners]) listener(Math.round(by))
}

/** Whether it was within the last so many milliseconds, Unix ms; a moment ahead of a clock that was set back was not. */
export const isWithin = (ms: number, at: number): boolean => at <= Date.now() && Date.now() - at < ms

/** So long after a clock was set it is not sure which of the two was right. */
const doubtMs = 24 * 3_600_000

let jumps: { by: number; since: number }[] = []
let isFollowed = false

/** The clock is by so much another one than was to be expected, ms. */
export const doubtClock = (by: number) => void jumps.push({ by, since: steadyNow() })

/** By how much the clock was set within the last day, ms; positive: ahead. */
const doubt = (): number => {
  if (!isFollowed) onClockSet(doubtClock)
  isFollowed = true
  // before anybody is told
  const just = aheadNow() - ahead
  const unheard = Math.abs(just) < leastMs ? 0 : just
  if (jumps.length === 0) return unheard
  jumps = jumps.filter(({ since }) => steadyNow() - since < doubtMs)
  return jumps.reduce((sum, { by }) => sum + by, unheard)
}

/** Unix ms, for what is thrown away because it is old: a jump ahead counts only after a day. */
export const earliestNow = (): number => Date.now() - Math.max(0, doubt())

/** Unix ms, for what is not believed because it is still to come: a clock that was set back counts only after a day. */
export const latestNow = (): number => Date.now() + Math.max(0, -doubt())
