const RealDate = Date
let ahead = 0

/** The clock of the machine as it is after somebody set it: by so many milliseconds another one than the real one. */
class SetDate extends RealDate {
  constructor(...parts: [] | [number | string | Date]) {
    super(...((parts.length === 0 ? [RealDate.now() + ahead] : parts) as [number]))
  }

  static override now() {
    return RealDate.now() + ahead
  }

  static override [Symbol.hasInstance](thing: unknown) {
    return Object.prototype.toString.call(thing) === '[object Date]'
  }
}

/** Sets the clock of this process ahead, or back where it is negative. */
export const shiftClock = (by: number) => {
  ahead += by
  globalThis.Date = SetDate as DateConstructor
}

export const clockIsRight = () => {
  ahead = 0
  globalThis.Date = RealDate
}
