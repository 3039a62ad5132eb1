/** Everybody who runs at the same period is called by one timer, at whole multiples of it; a beat that was missed is not made up for. */
export class Periods {
  private beats = new Map<number, { callers: Set<(at: number) => void>; timer: NodeJS.Timeout }>()

  /** Returns how to end it. */
  add(every: number, call: (at: number) => void): () => void {
    const beat = this.beats.get(every) ?? this.begin(every)
    beat.callers.add(call)
    return () => {
      beat.callers.delete(call)
      if (beat.callers.size > 0 || this.beats.get(every) !== beat) return
      clearTimeout(beat.timer)
      this.beats.delete(every)
    }
  }

  close() {
    for (const { timer } of this.beats.values()) clearTimeout(timer)
    this.beats.clear()
  }

  private begin(every: number) {
    const beat = { callers: new Set<(at: number) => void>(), timer: setTimeout(() => {}, 0) }
    const next = (last: number) => {
      const now = Date.now()
      // a timer may come a little early: the same beat does not come twice
      const at = Math.max((Math.floor(now / every) + 1) * every, last + every)
      beat.timer = setTimeout(() => {
        next(at)
        for (const call of beat.callers) call(at)
      }, at - now)
    }
    next(0)
    this.beats.set(every, beat)
    return beat
  }
}
