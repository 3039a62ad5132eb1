import type { Cut, Cutter } from '#core/modbus/frame'

/** Cuts what comes into frames, and lets go of what is not whole by the time the line has been silent. */
export class TimedCutter {
  private timer: NodeJS.Timeout | null = null

  /** @param silentMs so long a line is silent once no frame is under way; 0: its silence says nothing */
  constructor(
    private cutter: Cutter,
    private silentMs: number,
    private take: (cut: Cut) => void,
  ) {}

  push(chunk: Buffer) {
    this.take(this.cutter.push(chunk))
    if (this.timer) clearTimeout(this.timer)
    this.timer = this.silentMs > 0 && this.cutter.waiting > 0 ? setTimeout(() => this.take(this.cutter.silence()), this.silentMs) : null
  }

  /** What is there by now is taken, and the rest let go of. */
  end() {
    this.take(this.cutter.silence())
  }

  get waiting() {
    return this.cutter.waiting
  }

  close() {
    if (this.timer) clearTimeout(this.timer)
  }
}
