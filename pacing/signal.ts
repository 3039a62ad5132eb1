/** Something to wait for that is not missed where it comes before anybody waits. One waits at a time. */
export class Signal {
  private isRaised = false
  private go: (() => void) | null = null

  raise() {
    this.isRaised = true
    this.go?.()
  }

  /** Until it is raised, or so many milliseconds. */
  wait(ms?: number): Promise<void> {
    return new Promise((resolve) => {
      let timer: NodeJS.Timeout | null = null
      const done = () => {
        if (timer) clearTimeout(timer)
        this.go = null
        this.isRaised = false
        resolve()
      }
      if (this.isRaised) return done()
      this.go = done
      if (ms !== undefined) timer = setTimeout(done, ms)
    })
  }
}
