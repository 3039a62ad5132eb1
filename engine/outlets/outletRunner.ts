import { rm } from 'node:fs/promises'
import { CallBook } from '#core/calls/callBook'
import { fault, type Fault } from '#core/faults/catalogue'
import type { Goal } from '#core/diagnosis/facts'
import { outletFactsOf } from '#core/outlets/registry'
import type { Outlet } from '#shared/outlets/outlet'
import type { OutletStatistics } from '#shared/statistics'
import type { OutletStatus } from '#shared/status'
import { boundedEnd } from '#pacing/ending'
import { matcherOf } from '#core/mqtt/topic'
import type { Claim } from '../arrivals/arrival'
import { ArrivalBook } from '../arrivals/arrivalBook'
import { ArrivalDoor } from '../arrivals/arrivalDoor'
import type { Receiver } from '../links/receiving'
import type { Handle } from '../table/tagTable'
import { Wire } from '../wire/wire'
import type { OutletContext, OutletSession, OutletTag } from './driver'
import { outletDriverOf } from './registry'

export type Surroundings = Omit<OutletContext<Outlet['settings']>, 'name' | 'settings' | 'after' | 'wire' | 'calls' | 'arrivals'>

const nobody = { addresses: [], clients: [], items: 0, changesPerSecond: 0, details: null }

/** One outlet of the configuration: switched on it has a session. */
export class OutletRunner {
  private session: OutletSession<Outlet['settings']> | null = null
  /** Switched on, and yet without a session: why. */
  private failure: Fault | null = null
  private ending: Promise<void> = Promise.resolve()
  /** Why somebody else has its doors. */
  private lent: string | null = null
  private door: ArrivalDoor | null = null
  private tags = new Map<Handle, OutletTag>()
  /** What passes at its connections. */
  readonly wire: Wire
  /** What consumers asked, and what they got; sessions come and go. */
  readonly calls = new CallBook()
  /** What consumers send, for bridges and others; sessions come and go. */
  readonly arrivals = new ArrivalBook((problem) => this.surroundings.journal.caution(this.outlet.name, problem))

  /** @param ready resolves once everything that is configured beside it is in its place: messages wait for that */
  constructor(
    private outlet: Outlet,
    private surroundings: Surroundings,
    ready: Promise<void> = Promise.resolve(),
  ) {
    if (outletFactsOf(outlet.kind).capabilities.messages) this.ending = ready
    this.wire = new Wire(outletFactsOf(outlet.kind).frames)
  }

  get name() {
    return this.outlet.name
  }

  get kind() {
    return this.outlet.kind
  }

  get flow() {
    return this.status().flow
  }

  /** Whether consumers get this tag here. */
  shows(path: string) {
    return this.session?.shows(path) ?? false
  }

  /** Changes told to consumers since the outlet was opened. */
  get changesTold() {
    return this.session?.changesTold ?? 0
  }

  /** Opens where it is switched on. Throws where that cannot be. */
  start() {
    if (this.outlet.on && this.lent === null) this.open()
  }

  /** Leaves its doors to somebody else until that one gives them back; resolves once they are free. */
  async lend(why: string): Promise<() => void> {
    this.lent = why
    this.shut()
    await this.ending
    return () => {
      this.lent = null
      try {
        this.start()
      } catch {
        // its status says why
      }
    }
  }

  /** Throws where the change cannot come into force. */
  update(outlet: Outlet) {
    const before = this.outlet
    this.outlet = outlet
    if (!outlet.on) return this.shut()
    if (this.lent !== null) return
    if (!this.session || before.kind !== outlet.kind) return this.openAnew()
    if (JSON.stringify(before.settings) !== JSON.stringify(outlet.settings)) this.guarded(() => this.session?.update(outlet.settings))
  }

  /** Throws at the first that the session cannot take. */
  setTags(changed: readonly OutletTag[], removed: readonly Handle[]) {
    for (const handle of removed) this.tags.delete(handle)
    for (const tag of changed) this.tags.set(tag.handle, tag)
    this.session?.setTags(changed, removed)
  }

  statistics(): OutletStatistics {
    const now = Date.now()
    const { id, name, kind } = this.outlet
    const { passed } = this.wire.tap
    return {
      ...{ id, name, kind, whole: this.calls.meters.told(now).whole, clients: this.calls.totals(now) },
      ...{ bytesIn: passed.in, bytesOut: passed.out, connections: this.wire.tap.mark() },
    }
  }

  /** Never throws: what cannot tell how it is, is broken. */
  status(): Omit<OutletStatus, 'feeds'> {
    const { id } = this.outlet
    try {
      return { id, ...(this.session?.status() ?? this.restingStatus()) }
    } catch (error) {
      return { id, ...brokenBy(fault('ours.unexpected', { problem: (error as Error).message })) }
    }
  }

  disconnect(clientId: string): boolean {
    return this.session?.disconnect?.(clientId) ?? false
  }

  get isOpen() {
    return this.session !== null
  }

  modelChanged() {
    this.session?.modelChanged?.()
  }

  /** What is to be done at the far side; null: nothing runs that has a model there. */
  plan(readAgain: boolean) {
    return this.session?.plan?.(readAgain) ?? null
  }

  applyPlan(seen: string, removing: boolean) {
    return this.session?.applyPlan?.(seen, removing) ?? null
  }

  /** Where it goes, where it goes to others. */
  get goal(): Goal | null {
    return outletFactsOf(this.outlet.kind).goal?.(this.outlet.settings) ?? null
  }

  check(entry: number) {
    return this.session?.check?.(entry) ?? null
  }

  /** Hands on what consumers send by a filter, whatever session the outlet has; returns how to end it. */
  listen({ filter, by, take }: Pick<Claim, 'by' | 'take'> & { filter: string }): () => void {
    return this.arrivals.claim({ by, take, topic: /[+#]/.test(filter) ? matcherOf(filter) : filter })
  }

  /** Where bridges send to. */
  receiver(): Receiver | Fault {
    if (!this.session) return this.failure ?? fault('outlet.off', {})
    const { name, kind } = this.outlet
    return this.session.receiver?.() ?? fault('bridge.no-receiver', { link: name, what: `records (${outletFactsOf(kind).title})` })
  }

  close(): Promise<void> {
    this.shut()
    this.wire.close()
    return this.ending
  }

  /** The outlet is gone, and with it what it kept. */
  async remove() {
    await this.close()
    const { folder } = this.surroundings
    if (folder) await rm(folder, { recursive: true, force: true })
  }

  private restingStatus(): Omit<OutletStatus, 'id' | 'feeds'> {
    if (this.failure) return brokenBy(this.failure)
    if (this.outlet.on && this.lent !== null) return { flow: 'late', sentence: this.lent, fault: null, ...nobody }
    return { flow: 'off', sentence: 'Switched off', fault: null, ...nobody }
  }

  private open() {
    this.guarded(() => {
      const { name, kind, settings } = this.outlet
      this.door = new ArrivalDoor(this.arrivals)
      const around = { ...this.surroundings, wire: this.wire, calls: this.calls, arrivals: this.door, after: this.ending }
      this.session = outletDriverOf(kind).open({ ...around, name, settings })
      this.session.setTags([...this.tags.values()], [])
      this.failure = null
    })
  }

  private openAnew() {
    this.shut()
    this.open()
  }

  private guarded(work: () => void) {
    try {
      work()
    } catch (error) {
      const problem = error instanceof Error ? error.message : String(error)
      this.shut()
      this.failure = fault('force.failed', { thing: 'outlet', name: this.outlet.name, problem })
      throw error
    }
  }

  /** Clients are let go in the background; what opens next waits for that, nobody else does. */
  private shut() {
    const { session } = this
    this.session = null
    this.failure = null
    this.door?.shut()
    if (!session) return
    const tell = (problem: string) => this.surroundings.journal.caution(this.outlet.name, problem)
    this.ending = boundedEnd([this.ending, (async () => session.close())()], tell)
  }
}

const brokenBy = (why: Fault): Omit<OutletStatus, 'id' | 'feeds'> => ({ flow: 'broken', sentence: why.what, fault: why, ...nobody })
