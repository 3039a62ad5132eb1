import type { Fault } from '#core/faults/catalogue'
import type { DeviceIdentification, EventList } from '#core/iolink/json'
import type { IoLinkSettings } from '#core/iolink/settings'
import { mayHaveDevice } from '#core/iolink/states'
import { steadyNow } from '#pacing/clock'
import { Repeated, pauseAfter } from '../repeated'
import type { Asked, Master, PortFound } from './master'

/** A port as it was looked at last. */
export interface SeenPort extends PortFound {
  /** Who is plugged in; null: nobody, or nobody who says so. */
  device: DeviceIdentification | null
  /** Why it is not known who is there, where somebody should be. */
  why: Fault | null
  at: number
}

interface Ways {
  master(): Master
  settings(): IoLinkSettings
  /** All ports, and all events that the master remembers. */
  seen(ports: SeenPort[], events: EventList): Promise<void>
  away(failed: Extract<Asked<unknown>, { ok: false }>): void
}

/** After a refusal events are asked for again so much later. */
const eventsPauseMs = 300_000

/** Looks again and again what is plugged in where, and what devices report. */
export class Lookout {
  /** Why there are no events; null: there are. */
  eventsFault: Fault | null = null
  private eventsPausedUntil = 0
  private repeated: Repeated

  constructor(private ways: Ways) {
    this.repeated = new Repeated({
      ask: (isOurs) => this.look(isOurs),
      interval: () => ways.settings().look,
      pauseAfter: (failures) => pauseAfter(ways.settings().patience, failures),
    })
    this.repeated.plan()
  }

  /** At once: something may be otherwise. */
  again() {
    this.repeated.again()
  }

  get nextTry() {
    return this.repeated.nextTry
  }

  tryNow() {
    this.repeated.tryNow()
  }

  close() {
    this.repeated.close()
  }

  private async look(isOurs: () => boolean): Promise<boolean> {
    const master = this.ways.master()
    const ports = await master.ports()
    if (!isOurs()) return true
    if (!ports.ok) {
      this.ways.away(ports)
      return false
    }
    const [seen, events] = await Promise.all([Promise.all(ports.value.map((port) => this.identify(master, port))), this.events(master)])
    if (isOurs()) await this.ways.seen(seen, events)
    return true
  }

  private async identify(master: Master, port: PortFound): Promise<SeenPort> {
    const asked = mayHaveDevice(port.state) ? await master.device(port.alias) : null
    return { ...port, device: asked?.ok ? asked.value : null, why: asked && !asked.ok ? asked.why : null, at: Date.now() }
  }

  private async events(master: Master): Promise<EventList> {
    if (steadyNow() < this.eventsPausedUntil) return []
    const asked = await master.events()
    if (asked.ok) {
      this.eventsFault = null
      return asked.value
    }
    this.eventsFault = asked.why
    // it has none, or not in this form; one that is busy will answer another time
    if (!asked.isAway && asked.code !== 102) this.eventsPausedUntil = steadyNow() + eventsPauseMs
    return []
  }
}
