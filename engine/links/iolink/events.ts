import type { Fault } from '#core/faults/catalogue'
import type { EventList } from '#core/iolink/json'

export interface ReportedEvent {
  code: number
  severity: string
  mode: string
  text: string
  time: string
}

/** What the device at a port reports: what it has not taken back, and the last of it. */
export class ReportedEvents {
  private active = new Map<number, ReportedEvent>()
  last: ReportedEvent | null = null
  /** Why the master does not tell them; null: it does. */
  fault: Fault | null = null

  /** What has appeared and not disappeared, by code. */
  get list(): ReportedEvent[] {
    return [...this.active.values()].sort((a, b) => a.code - b.code)
  }

  get text(): string {
    return this.list.map(({ code, text }) => (text === '' ? String(code) : `${code} ${text}`)).join('; ')
  }

  take(event: ReportedEvent) {
    this.last = event
    if (event.mode === 'APPEARS') this.active.set(event.code, event)
    else if (event.mode === 'DISAPPEARS') this.active.delete(event.code)
  }

  clear() {
    this.active.clear()
  }
}

const mostKnown = 4000

/** Tells new events of a master from those that were told before; its list may begin with the newest or the oldest. */
export class EventReader {
  private known = new Set<string>()

  /** Those that are new, the oldest first. */
  news(list: EventList): EventList {
    const ordered = [...list].sort((a, b) => timeOf(a) - timeOf(b))
    const keys = ordered.map(keyOf)
    const fresh = ordered.filter((_, i) => !this.known.has(keys[i]!))
    // what the master has forgotten does not come again
    this.known = new Set(keys.slice(-mostKnown))
    return fresh
  }
}

type Listed = EventList[number]
const timeOf = ({ time }: Listed) => Date.parse(time) || 0
const keyOf = ({ time, origin, message }: Listed) =>
  `${time} ${origin.portNumber ?? origin.deviceAlias ?? ''} ${message.code} ${message.mode}`
