import type { Outlet } from '#shared/outlets/outlet'
import type { OutletStatus } from '#shared/status'
import type { Handle } from '../table/tagTable'
import type { OutletContext, OutletSession, OutletTag } from './driver'
import { outletDriverOf } from './registry'

type Surroundings = Omit<OutletContext<Outlet['settings']>, 'name' | 'settings'>

const nobody = { doors: [], waiting: [], clients: [], onRequest: { points: [], refused: [] }, items: 0, changesPerSecond: 0 }

/** One outlet of the configuration: switched on it has a session. */
export class OutletRunner {
  private session: OutletSession<Outlet['settings']> | null = null
  private tags = new Map<Handle, OutletTag>()

  constructor(
    private outlet: Outlet,
    private surroundings: Surroundings,
  ) {
    if (outlet.on) this.open()
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

  async update(outlet: Outlet) {
    const before = this.outlet
    this.outlet = outlet
    if (before.on && !outlet.on) return this.close()
    if (!before.on && outlet.on) return this.open()
    if (JSON.stringify(before.settings) !== JSON.stringify(outlet.settings)) this.session?.update(outlet.settings)
  }

  setTags(changed: readonly OutletTag[], removed: readonly Handle[]) {
    for (const handle of removed) this.tags.delete(handle)
    for (const tag of changed) this.tags.set(tag.handle, tag)
    this.session?.setTags(changed, removed)
  }

  status(): OutletStatus {
    const { id } = this.outlet
    if (this.session) return { id, ...this.session.status() }
    return { id, flow: 'off', sentence: 'Switched off', fault: null, ...nobody }
  }

  disconnect(clientId: string): boolean {
    return this.session?.disconnect(clientId) ?? false
  }

  checkDoor(index: number) {
    return this.session?.checkDoor(index) ?? null
  }

  async close() {
    const session = this.session
    this.session = null
    await session?.close()
  }

  private open() {
    const { name, kind, settings } = this.outlet
    this.session = outletDriverOf(kind).open({ ...this.surroundings, name, settings })
    this.session.setTags([...this.tags.values()], [])
  }
}
