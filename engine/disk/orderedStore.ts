import { ClassicLevel } from 'classic-level'
import { within } from '#pacing/within'

export type Operation = { type: 'put'; key: string; value: string } | { type: 'del'; key: string }

const closeWithinMs = 5000
/** Above every digit and “/”. */
export const end = '~'

/**
 * Texts by their keys, in order, on the engine's own disk: it needs no database and survives whoever writes it. What was
 * handed over is on the disk once `settled` says so; everything that comes while the disk is at work goes there together.
 */
export class OrderedStore {
  private level: ClassicLevel<string, string> | null
  private waiting: Operation[] = []
  private waiters: { resolve(): void; reject(error: Error): void }[] = []
  private writing: Promise<void> | null = null
  private told: (operations: readonly Operation[]) => void = () => {}

  /** @param folder null: there is no place for it, and nothing can be kept */
  constructor(folder: string | null) {
    this.level = folder === null ? null : new ClassicLevel<string, string>(folder, { keyEncoding: 'utf8', valueEncoding: 'utf8' })
  }

  /** Safe to repeat; rejects while another process is at home there. */
  async open() {
    if (this.level && this.level.status !== 'open') await this.level.open()
  }

  /** Hears of all that got on the disk. */
  listen(told: (operations: readonly Operation[]) => void) {
    this.told = told
  }

  /** Resolves once it is on the disk. */
  settled(operations: readonly Operation[]): Promise<void> {
    if (operations.length === 0) return Promise.resolve()
    this.waiting.push(...operations)
    const done = new Promise<void>((resolve, reject) => this.waiters.push({ resolve, reject }))
    this.writing ??= this.write()
    return done
  }

  get(key: string): Promise<string | undefined> {
    return this.level?.get(key) ?? Promise.resolve(undefined)
  }

  /** In the order of the keys; undefined for those that are not there. */
  async many(keys: readonly string[]): Promise<(string | undefined)[]> {
    if (keys.length === 0) return []
    return this.level?.getMany([...keys]) ?? keys.map(() => undefined)
  }

  /** All whose keys begin so, in order. */
  keys(begin: string): AsyncIterable<string> {
    return this.level?.keys(below(begin)) ?? nothing()
  }

  entries(begin: string, most = -1): AsyncIterable<[string, string]> {
    return this.level?.iterator({ ...below(begin), limit: most }) ?? nothing()
  }

  async clear(begin: string) {
    await this.level?.clear(below(begin))
  }

  async close() {
    await this.writing?.catch(() => {})
    if (this.level) await within(closeWithinMs, this.level.close()).catch(() => {})
  }

  private async write() {
    // all that the same turn brings goes together
    await Promise.resolve()
    while (this.waiting.length > 0) {
      const [operations, waiters] = [this.waiting, this.waiters]
      ;[this.waiting, this.waiters] = [[], []]
      try {
        await this.open()
        if (!this.level) throw new Error('the engine was started without a place for it')
        await this.level.batch(operations, { sync: true } as object)
        for (const { resolve } of waiters) resolve()
        this.told(operations)
      } catch (error) {
        for (const { reject } of waiters) reject(error as Error)
      }
    }
    this.writing = null
  }
}

const below = (begin: string) => ({ gt: begin, lt: `${begin}${end}` })

async function* nothing(): AsyncGenerator<never> {
  // there is nothing
}
