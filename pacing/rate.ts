/** Turns a growing count into events per second, measured once a second. */
export class Rate {
  perSecond = 0
  private last: number
  private timer: NodeJS.Timeout

  constructor(count: () => number) {
    this.last = count()
    this.timer = setInterval(() => {
      const now = count()
      this.perSecond = Math.max(0, now - this.last)
      this.last = now
    }, 1000)
    this.timer.unref()
  }

  close() {
    clearInterval(this.timer)
  }
}
