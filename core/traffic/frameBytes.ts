const blockBytes = 1 << 20

interface Block {
  bytes: Uint8Array
  used: number
  /** Frames that lie in it. */
  frames: number
}

/** The bytes of frames one after the other, in blocks, so that a million of them are not a million objects. */
export class FrameBytes {
  size = 0
  private blocks: Block[] = []
  /** The number of the first block that is still there. */
  private first = 0
  private count = 0
  private block = new Int32Array(1024)
  private begins = new Int32Array(1024)
  private length = new Int32Array(1024)

  push(bytes: Uint8Array) {
    if (this.count === this.begins.length) this.grow()
    let last = this.blocks.at(-1)
    if (!last || last.used + bytes.length > last.bytes.length)
      this.blocks.push((last = { bytes: new Uint8Array(Math.max(blockBytes, bytes.length)), used: 0, frames: 0 }))
    last.bytes.set(bytes, last.used)
    const i = this.count++
    this.block[i] = this.first + this.blocks.length - 1
    this.begins[i] = last.used
    this.length[i] = bytes.length
    last.used += bytes.length
    last.frames++
    this.size += bytes.length
  }

  at(i: number): Uint8Array {
    const { bytes } = this.blocks[this.block[i]! - this.first]!
    return bytes.subarray(this.begins[i], this.begins[i]! + this.length[i]!)
  }

  /** The oldest go. */
  drop(count: number) {
    for (let i = 0; i < count; i++) {
      this.blocks[this.block[i]! - this.first]!.frames--
      this.size -= this.length[i]!
    }
    for (const column of [this.block, this.begins, this.length]) column.copyWithin(0, count, this.count)
    this.count -= count
    while (this.blocks.length > 1 && this.blocks[0]!.frames === 0) {
      this.blocks.shift()
      this.first++
    }
  }

  private grow() {
    const wider = (column: Int32Array) => {
      const fresh = new Int32Array(2 * column.length)
      fresh.set(column)
      return fresh
    }
    this.block = wider(this.block)
    this.begins = wider(this.begins)
    this.length = wider(this.length)
  }
}
