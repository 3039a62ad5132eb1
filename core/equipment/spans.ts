import type { Stretch } from './windows'

/** So many are told apart; of more, those that are closest to each other become one. */
const most = 64

/** Stretches of time that are to be looked at again: in their order, none touching another. */
export class Spans {
  private list: Stretch[] = []

  get isEmpty() {
    return this.list.length === 0
  }

  /** From the beginning of the first to the end of the last; null: there is none. */
  get hull(): Stretch | null {
    const [first, last] = [this.list[0], this.list.at(-1)]
    return first && last ? { from: first.from, to: last.to } : null
  }

  add({ from, to }: Stretch) {
    if (!(to > from)) return
    const before = this.list.filter((one) => one.to < from)
    const after = this.list.filter((one) => one.from > to)
    const touched = this.list.slice(before.length, this.list.length - after.length)
    const one = { from: Math.min(from, touched[0]?.from ?? from), to: Math.max(to, touched.at(-1)?.to ?? to) }
    this.list = [...before, one, ...after]
    if (this.list.length > most) this.joinClosest()
  }

  /** Takes the first one out. */
  take(): Stretch | undefined {
    return this.list.shift()
  }

  private joinClosest() {
    let closest = 1
    const apart = (i: number) => this.list[i]!.from - this.list[i - 1]!.to
    for (let i = 2; i < this.list.length; i++) if (apart(i) < apart(closest)) closest = i
    this.list.splice(closest - 1, 2, { from: this.list[closest - 1]!.from, to: this.list[closest]!.to })
  }
}
