import type { WebSide } from './server'

const longestMs = 300_000

/** Work that one web side started and that tells as it goes: checks, searches, pairing. It ends with that side. */
export class LongWork {
  private running = new Map<string, AbortController>()

  constructor(private web: Pick<WebSide, 'part'>) {}

  /** Sends what a generator brings, part by part, until it ends or is stopped. */
  async bring(id: string, start: (signal: AbortSignal) => AsyncGenerator<unknown>) {
    const abort = new AbortController()
    this.running.set(id, abort)
    const limit = AbortSignal.any([abort.signal, AbortSignal.timeout(longestMs)])
    try {
      for await (const part of start(limit)) {
        if (abort.signal.aborted) return
        void this.web.part.asEvent(id, part)
      }
    } finally {
      this.running.delete(id)
    }
  }

  stop(id: string) {
    this.running.get(id)?.abort()
  }

  close() {
    for (const work of this.running.values()) work.abort()
  }
}
