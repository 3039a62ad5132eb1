import type { AddressSpace } from 'node-opcua'
import type { OpcuaServerSettings } from '#shared/outlets/opcuaServer'
import type { Handle } from '../../table/tagTable'
import { inTurns } from '#pacing/turns'
import type { OutletTag } from '../driver'
import { TagNodes } from './addressSpace'
import { NamesView } from './namesView'
import type { Ground } from './tagVariable'

type ShortNameSettings = OpcuaServerSettings['shortNames']

interface Tags {
  /** Of the site: all of them take part in the naming, so that what is shown changes no name. */
  all: ReadonlyMap<Handle, OutletTag>
  /** Of this outlet. */
  shown: ReadonlyMap<Handle, OutletTag>
}

/** Tags by short name. What needs a look at all of them is done in turns with everything else. */
export class ShortNamedNodes {
  private names = new NamesView()
  private nodes: TagNodes
  private settings: ShortNameSettings | null = null
  /** What the next pass has to begin with. */
  private wanted: 'nothing' | 'names' | 'everything' = 'nothing'
  private working: Promise<void> | null = null
  private closed = false

  constructor(
    addressSpace: AddressSpace,
    ground: Ground,
    private tags: Tags,
    tell: (problem: string) => void,
  ) {
    this.nodes = new TagNodes(addressSpace, ground, this.names, tell)
  }

  /** Takes settings that are new or others. */
  take(settings: ShortNameSettings) {
    if (!settings.on && !this.settings?.on) return
    this.settings = settings
    this.want('everything')
  }

  /** @param shown those of the changed ones that this outlet shows. @param gone those that it shows no more. */
  change(changed: readonly OutletTag[], removed: readonly Handle[], shown: readonly OutletTag[], gone: readonly Handle[]) {
    if (!this.settings?.on) return
    const anew = this.names.change(changed, removed)
    this.nodes.change([], gone)
    if (!anew && !this.working) return this.nodes.change(shown, [])
    this.nodes.putOff(shown)
    this.want('names')
  }

  announce(handles: readonly Handle[]) {
    if (this.settings?.on) this.nodes.announce(handles)
  }

  /** Nodes still to be made, removed, or looked at. */
  get pending() {
    return this.nodes.pending + (this.working ? this.tags.shown.size : 0)
  }

  async settled() {
    while (this.working) await this.working
    await this.nodes.settled()
  }

  close() {
    this.closed = true
    this.nodes.close()
  }

  private want(what: 'names' | 'everything') {
    if (this.wanted !== 'everything') this.wanted = what
    this.working ??= this.work().finally(() => (this.working = null))
  }

  /** One pass after the other, as long as something changes meanwhile. */
  private async work() {
    while (this.wanted !== 'nothing' && !this.closed) {
      const begins = this.wanted === 'everything'
      this.wanted = 'nothing'
      if (begins) await this.begin()
      if (!this.settings?.on) await inTurns(this.tags.shown.keys(), (handle) => this.nodes.change([], [handle]))
      else await this.pass()
    }
  }

  private async begin() {
    this.names.begin(this.settings!)
    if (this.settings!.on) await inTurns(this.tags.all.values(), (tag) => void this.names.change([tag], []))
  }

  private async pass() {
    if (this.names.needsAll) await inTurns(this.names.giveAll(), () => {})
    await inTurns(this.tags.shown.values(), (tag) => this.nodes.change([tag], []))
  }
}
