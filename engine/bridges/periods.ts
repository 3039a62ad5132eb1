import { Moments } from '#pacing/moments'

interface Beat {
  callers: Set<(at: number) => void>
  moments: Moments
}

/** Everybody who runs at the same period is called by one timer, at whole multiples of it; a beat that was missed is not made up for. */
export class Periods {
  private beats = new Map<number, Beat>()

  /** Returns how to end it. */
  add(every: number, call: (at: number) => void): () => void {
    const beat = this.beats.get(every) ?? this.begin(every)
    beat.callers.add(call)
    return () => {
      beat.callers.delete(call)
      if (beat.callers.size > 0 || this.beats.get(every) !== beat) return
      beat.moments.close()
      this.beats.delete(every)
    }
  }

  close() {
    for (const { moments } of this.beats.values()) moments.close()
    this.beats.clear()
  }

  private begin(every: number): Beat {
    const callers = new Set<(at: number) => void>()
    const call = (at: number) => callers.forEach((one) => one(at))
    const beat = { callers, moments: new Moments({ after: (at) => (Math.floor(at / every) + 1) * every, call }) }
    this.beats.set(every, beat)
    return beat
  }
}
