import type { Fault } from '#core/faults/catalogue'
import type { DoorPlace } from '#shared/outlets/doors'
import type { DoorStatus } from '#shared/outlets/doorStatus'
import { Backoff } from '#pacing/backoff'
import { Arrivals } from './arrivals'
import { requireInterface } from '../../wire/interfaces'
import { doorFault } from './place'

/** What listens at a door. */
export interface Opened {
  close(): Promise<void>
}

interface DoorWays<D, O> {
  /** Starts to listen; rejects where that cannot be. */
  listen(door: D, arrivals: Arrivals): Promise<O>
  /** What clients dial. */
  addressOf(door: D): string
  opened(address: string): void
  failed(why: Fault): void
}

interface OpenDoor<D, O> {
  key: string
  door: D
  opened: O | null
  fault: Fault | null
  timer: NodeJS.Timeout | null
  backoff: Backoff
  arrivals: Arrivals
}

/** The doors of one outlet. Each opens, fails and is tried again by itself; who came in by another never notices. */
export class DoorSet<D extends DoorPlace, O extends Opened> {
  private doors: OpenDoor<D, O>[] = []
  private work: Promise<void> = Promise.resolve()
  private closed = false

  constructor(private ways: DoorWays<D, O>) {}

  /** Opens what is new, closes what is gone, and leaves the rest alone. */
  apply(wanted: readonly D[]): Promise<void> {
    return this.enqueue(async () => {
      const keys = new Set(wanted.map(keyOf))
      const gone = this.doors.filter(({ key }) => !keys.has(key))
      this.doors = this.doors.filter(({ key }) => keys.has(key))
      for (const door of gone) await this.shut(door)
      const known = new Set(this.doors.map(({ key }) => key))
      for (const door of wanted) if (!known.has(keyOf(door))) await this.add(door)
      // whoever looks at the settings beside finds the third door in the third place
      const places = wanted.map(keyOf)
      this.doors.sort((a, b) => places.indexOf(a.key) - places.indexOf(b.key))
    })
  }

  status(): DoorStatus[] {
    return this.doors.map(({ door, opened, fault: why, arrivals }) => ({
      address: this.ways.addressOf(door),
      interface: door.interface,
      port: door.port,
      flow: !door.on ? 'off' : opened ? 'flowing' : why ? 'broken' : 'late',
      fault: why,
      arrivals: arrivals.status(),
    }))
  }

  /** A door as it is now; null: there is none of this number. */
  at(index: number): { door: D; status: DoorStatus } | null {
    const made = this.doors[index]
    return made ? { door: made.door, status: this.status()[index]! } : null
  }

  /** What listens now. */
  *open(): Iterable<O> {
    for (const { opened } of this.doors) if (opened) yield opened
  }

  close(): Promise<void> {
    this.closed = true
    return this.enqueue(async () => {
      for (const door of this.doors) await this.shut(door)
      this.doors = []
    })
  }

  private enqueue(task: () => Promise<void>) {
    this.work = this.work.then(task, task)
    return this.work
  }

  private async add(door: D) {
    const fresh = { opened: null, fault: null, timer: null, backoff: new Backoff(1000, 30_000), arrivals: new Arrivals() }
    const made: OpenDoor<D, O> = { key: keyOf(door), door, ...fresh }
    this.doors.push(made)
    if (door.on) await this.tryToOpen(made)
  }

  private async tryToOpen(made: OpenDoor<D, O>) {
    const { door } = made
    try {
      requireInterface(door)
      made.opened = await this.ways.listen(door, made.arrivals)
      made.fault = null
      made.backoff.reset()
      this.ways.opened(this.ways.addressOf(door))
    } catch (error) {
      this.failed(made, error as Error & { code?: string })
    }
  }

  private failed(made: OpenDoor<D, O>, error: Error & { code?: string }) {
    const first = made.fault === null
    made.fault = doorFault(made.door, error)
    if (first) this.ways.failed(made.fault)
    if (this.closed) return
    made.timer = setTimeout(
      () => void this.enqueue(() => (this.doors.includes(made) ? this.tryToOpen(made) : Promise.resolve())),
      made.backoff.next(),
    )
  }

  private async shut(made: OpenDoor<D, O>) {
    if (made.timer) clearTimeout(made.timer)
    const { opened } = made
    made.opened = null
    await opened?.close().catch(() => {})
  }
}

const keyOf = (door: DoorPlace) => JSON.stringify(door)
