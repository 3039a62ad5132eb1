import { fault, type Fault } from '#core/faults/catalogue'
import { outletFactsOf } from '#core/outlets/registry'
import type { Outlet } from '#shared/outlets/outlet'
import type { OutletStatus } from '#shared/status'
import { boundedEnd } from '#pacing/ending'
import type { Handle } from '../table/tagTable'
import { Wire } from '../wire/wire'
import type { OutletContext, OutletSession, OutletTag } from './driver'
import { outletDriverOf } from './registry'

type Surroundings = Omit<OutletContext<Outlet['settings']>, 'name' | 'settings' | 'after' | 'wire'>

const nobody = { addresses: [], clients: [], items: 0, changesPerSecond: 0, details: null }

/** One outlet of the configuration: switched on it has a session. */
export class OutletRunner {
  private session: OutletSession<Outlet['settings']> | null = null
  /** Switched on, and yet without a session: why. */
  private failure: Fault | null = null
  private ending: Promise<void> = Promise.resolve()
  private tags = new Map<Handle, OutletTag>()
  /** What passes at its connections. */
  readonly wire: Wire

  constructor(
    private outlet: Outlet,
    private surroundings: Surroundings,
  ) {
    this.wire = new Wire(outletFactsOf(outlet.kind).frames)
  }

  get name() {
    return this.outlet.name
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
    if (this.outlet.on) this.open()
  }

  /** Throws where the change cannot come into force. */
  update(outlet: Outlet) {
    const before = this.outlet
    this.outlet = outlet
    if (!outlet.on) return this.shut()
    if (!this.session || before.kind !== outlet.kind) return this.openAnew()
    if (JSON.stringify(before.settings) !== JSON.stringify(outlet.settings)) this.guarded(() => this.session?.update(outlet.settings))
  }

  /** Throws at the first that the session cannot take. */
  setTags(changed: readonly OutletTag[], removed: readonly Handle[]) {
    for (const handle of removed) this.tags.delete(handle)
    for (const tag of changed) this.tags.set(tag.handle, tag)
    this.session?.setTags(changed, removed)
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

  check(entry: number) {
    return this.session?.check?.(entry) ?? null
  }

  close(): Promise<void> {
    this.shut()
    this.wire.close()
    return this.ending
  }

  private restingStatus(): Omit<OutletStatus, 'id' | 'feeds'> {
    return this.failure ? brokenBy(this.failure) : { flow: 'off', sentence: 'Switched off', fault: null, ...nobody }
  }

  private open() {
    this.guarded(() => {
      const { name, kind, settings } = this.outlet
      this.session = outletDriverOf(kind).open({ ...this.surroundings, name, settings, wire: this.wire, after: this.ending })
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
    if (!session) return
    const tell = (problem: string) => this.surroundings.journal.caution(this.outlet.name, problem)
    this.ending = boundedEnd([this.ending, (async () => session.close())()], tell)
  }
}

const brokenBy = (why: Fault): Omit<OutletStatus, 'id' | 'feeds'> => ({ flow: 'broken', sentence: why.what, fault: why, ...nobody })
