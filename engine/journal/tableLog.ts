/** What a log that ends in a table needs. */
interface TableLogOptions<E> {
  insert(entries: readonly E[]): Promise<unknown>
  /** Takes the oldest out, so that the table cannot grow without end. */
  trim(): Promise<unknown>
  /** Called whenever everything that was added is in the table. */
  allStored?(): void
  /** Called with each entry that is lost: more came than can wait, or the table cannot hold it. */
  dropped?(entry: E): void
  /** Called with the number of entries that were lost, and why, once the table takes entries again. */
  lost(count: number, why: string): void
  /** So many entries wait at most; 5000 where nothing is said. */
  most?: number
}

const usuallyWaiting = 5000
const atOnce = 500
const flushEveryMs = 500
const trimEvery = 1000

/**
 * Entries on their way into a table. While the database is away they wait, up to a limit: then
 * the oldest go, and are counted. An entry that the table cannot hold is dropped alone.
 */
export class TableLog<E> {
  private waiting: E[] = []
  private onTheWay: readonly E[] = []
  private dropped = 0
  private unstorable = 0
  private lastProblem = ''
  private sinceTrim = 0
  private busy: Promise<void> | null = null
  private timer: NodeJS.Timeout

  private most: number

  constructor(private options: TableLogOptions<E>) {
    this.most = options.most ?? usuallyWaiting
    this.timer = setInterval(() => void this.flush(), flushEveryMs)
    this.timer.unref()
  }

  add(entry: E) {
    if (this.waiting.length >= this.most) {
      const [oldest] = this.waiting.splice(0, 1)
      this.options.dropped?.(oldest!)
      this.dropped++
    }
    this.waiting.push(entry)
  }

  /** What is not known to be in the table. */
  get notStored(): readonly E[] {
    return [...this.onTheWay, ...this.waiting]
  }

  /** Writes what waits; one flush at a time. Never rejects. */
  flush(): Promise<void> {
    return (this.busy ??= this.writeAll().finally(() => (this.busy = null)))
  }

  async close() {
    clearInterval(this.timer)
    await this.flush()
  }

  private async writeAll() {
    while (this.waiting.length > 0) {
      const batch = this.waiting.splice(0, atOnce)
      this.onTheWay = batch
      const left = await this.store(batch)
      this.onTheWay = []
      if (left.length > 0) return this.putBack(left)
      this.tellLost()
      if (this.waiting.length === 0) this.options.allStored?.()
      await this.trimAfter(batch.length)
    }
  }

  /** Returns what the database could not be given. */
  private async store(batch: readonly E[]): Promise<readonly E[]> {
    try {
      await this.options.insert(batch)
      return []
    } catch (error) {
      if (!isDataProblem(error)) return batch
      if (batch.length > 1) return this.storeHalves(batch)
      this.unstorable++
      this.options.dropped?.(batch[0]!)
      this.lastProblem = (error as Error).message
      return []
    }
  }

  /** Something in it cannot be stored: halved until that stands alone. */
  private async storeHalves(batch: readonly E[]): Promise<readonly E[]> {
    const middle = batch.length >> 1
    const left = await this.store(batch.slice(0, middle))
    if (left.length > 0) return [...left, ...batch.slice(middle)]
    return this.store(batch.slice(middle))
  }

  private putBack(entries: readonly E[]) {
    const room = Math.max(0, this.most - this.waiting.length)
    const tooMany = Math.max(0, entries.length - room)
    this.dropped += tooMany
    for (const entry of entries.slice(0, tooMany)) this.options.dropped?.(entry)
    this.waiting.unshift(...entries.slice(tooMany))
  }

  private tellLost() {
    const { dropped, unstorable } = this
    this.dropped = this.unstorable = 0
    if (dropped > 0) this.options.lost(dropped, 'more came than could wait while the database was away')
    if (unstorable > 0) this.options.lost(unstorable, `the database cannot hold it: ${this.lastProblem}`)
  }

  private async trimAfter(added: number) {
    this.sinceTrim += added
    if (this.sinceTrim < trimEvery) return
    this.sinceTrim = 0
    await this.options.trim().catch(() => {})
  }
}

/** SQLSTATE 22 and 23: the data is at fault, and waiting would not help. */
const isDataProblem = (error: unknown) => /^2[23]/.test(String((error as { code?: unknown } | null)?.code ?? ''))
