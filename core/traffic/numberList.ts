/** Rising numbers, a million of them in few bytes; the lowest go. */
export class NumberList {
  private all = new Int32Array(1024)
  private first = 0
  private end = 0

  get length() {
    return this.end - this.first
  }

  push(n: number) {
    if (this.end === this.all.length) this.makeRoom()
    this.all[this.end++] = n
  }

  slice(from: number, to: number): number[] {
    return [...this.all.subarray(this.first + from, Math.min(this.end, this.first + to))]
  }

  /** Where a number stands, or would stand. */
  placeOf(n: number): number {
    let [low, high] = [this.first, this.end]
    while (low < high) {
      const middle = (low + high) >> 1
      if (this.all[middle]! < n) low = middle + 1
      else high = middle
    }
    return low - this.first
  }

  dropBefore(n: number) {
    this.first += this.placeOf(n)
  }

  private makeRoom() {
    const isHalfEmpty = this.first > this.all.length / 2
    const room = isHalfEmpty ? this.all : new Int32Array(2 * this.all.length)
    room.set(this.all.subarray(this.first, this.end))
    this.end -= this.first
    this.first = 0
    this.all = room
  }
}
