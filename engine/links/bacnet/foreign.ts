import { fault, type Fault } from '#core/faults/catalogue'
import { resultWords } from '#core/bacnet/codes'
import { encodeRegistration } from '#core/bacnet/frames'
import type { BacnetSettings } from '#core/bacnet/settings'
import { Backoff } from '#pacing/backoff'
import { resolveName } from '../../wire/resolveName'
import type { BacnetPort, PortUser } from './port'

type Manager = NonNullable<BacnetSettings['foreign']>

/** Takes part in the network of a broadcast manager, and stays in it (Annex J.5). */
export class Registration {
  /** Where the manager is; null: not known yet. */
  place: { host: string; port: number } | null = null
  /** Why we do not take part; null: we do, or it is not decided yet. */
  fault: Fault | null = null
  isIn = false
  private timer: NodeJS.Timeout | null = null
  private closed = false
  private answered: (result: number | null) => void = () => {}
  private backoff: Backoff
  /** Resolves with the first outcome. */
  readonly decided: Promise<void>
  private decide: () => void = () => {}

  constructor(
    private manager: Manager,
    private patience: BacnetSettings['patience'],
    private port: BacnetPort,
    private user: PortUser,
    private changed: () => void,
  ) {
    this.backoff = new Backoff(patience.retryFirst, patience.retryMost)
    this.decided = new Promise((resolve) => (this.decide = resolve))
    void this.register()
  }

  /** An answer of a manager. */
  take(code: number, from: { host: string; port: number }) {
    if (from.host === this.place?.host && from.port === this.place.port) this.answered(code)
  }

  close() {
    this.closed = true
    if (this.timer) clearTimeout(this.timer)
    this.answered(null)
    this.decide()
  }

  private async register() {
    this.timer = null
    const { host, port, lifetime } = this.manager
    const place = `${host}:${port}`
    const found = await resolveName(host, port, this.patience.answer)
    if (this.closed) return
    const why = 'fault' in found ? found.fault : await this.ask({ host: found.address, port }, place)
    if (this.closed) return
    const before = this.isIn
    this.isIn = why === null
    this.fault = why
    this.decide()
    if (this.isIn) this.backoff.reset()
    if (before !== this.isIn || why) this.changed()
    this.timer = setTimeout(() => void this.register(), this.isIn ? (lifetime * 1000) / 2 : this.backoff.next())
    this.timer.unref()
  }

  private async ask(at: { host: string; port: number }, place: string): Promise<Fault | null> {
    this.place = at
    const result = await new Promise<number | null | 'late'>((resolve) => {
      const timer = setTimeout(() => resolve('late'), this.patience.answer)
      this.answered = (code) => {
        clearTimeout(timer)
        resolve(code)
      }
      this.port.send(this.user, encodeRegistration(this.manager.lifetime), at)
    })
    this.answered = () => {}
    if (result === 'late') return fault('bacnet.registration', { place, why: `no answer within ${this.patience.answer} ms` })
    const words = resultWords(result ?? 0)
    return words === null ? null : fault('bacnet.registration', { place, why: words })
  }
}
