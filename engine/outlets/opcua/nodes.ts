import type { AddressSpace, ISessionContext } from 'node-opcua'
import { FolderRules, lesser, type Right } from '#core/outlets/rules'
import type { OpcuaServerSettings } from '#shared/outlets/opcuaServer'
import type { Handle } from '../../table/tagTable'
import type { OutletContext, OutletTag } from '../driver'
import { deepView, TagNodes } from './addressSpace'
import { EquipmentNodes } from './equipmentNodes'
import { AlarmNodes } from './alarmNodes'
import { sessionOf, type Guests } from './guests'
import { HealthNodes } from './health'
import { historyConfiguration } from './historyConfiguration'
import { historyService } from './historyService'
import { PlaceNodes } from './places'
import { RequestedNodes } from './requested'
import { ShortNamedNodes } from './shortNamed'
import type { Ground } from './tagVariable'
import { writerOf } from './whoWrites'

/** Everything that clients see below Objects: tags by path and by short name, points on request, the links' health. */
export class OutletNodes {
  readonly requested: RequestedNodes
  private deep: TagNodes
  private flat: ShortNamedNodes
  private equipment: EquipmentNodes
  private health: HealthNodes
  private places: PlaceNodes
  readonly alarms: AlarmNodes
  /** Answers what clients ask of the past. */
  readonly history: ReturnType<typeof historyService>
  private shown = new Map<Handle, OutletTag>()
  private shows: FolderRules
  changesTold = 0

  /** @param all tags of the site; what is shown of them, the settings say. */
  constructor(
    addressSpace: AddressSpace,
    private context: Pick<
      OutletContext<unknown>,
      'table' | 'write' | 'links' | 'points' | 'alarms' | 'past' | 'name' | 'equipment' | 'link' | 'walkLink'
    >,
    guests: Guests,
    private settings: OpcuaServerSettings,
    private all: ReadonlyMap<Handle, OutletTag>,
    tell: (problem: string) => void,
  ) {
    const ground: Ground = {
      table: context.table,
      write: context.write,
      permits: {
        may: (client: ISessionContext | null, path: string): Right => guests.may(client, path),
        opens: (client, folder) => guests.opens(client, folder),
      },
      isRecorded: (tagId) => context.past.isRecorded(tagId),
      pastIsRead: historyConfiguration(addressSpace),
      told: () => void this.changesTold++,
    }
    this.shows = new FolderRules(settings.shows)
    this.deep = new TagNodes(addressSpace, ground, deepView, tell, {
      placed: (path, variable) => this.equipment.placed(path, variable),
      goes: (path, variable) => this.equipment.goes(path, variable),
    })
    this.equipment = new EquipmentNodes(addressSpace, {
      ...{ equipment: context.equipment, permits: ground.permits, tell, tagsIndex: this.deep.index },
      opens: (folder) => this.shows.opens(folder),
      variableOf: (path) => this.deep.variableOf(path),
    })
    this.flat = new ShortNamedNodes(addressSpace, ground, { all, shown: this.shown }, tell)
    this.requested = new RequestedNodes(addressSpace, ground, context.points, settings.onRequest, tell)
    this.places = new PlaceNodes(addressSpace, {
      ...{ link: context.link, permits: ground.permits, tell, requests: this.requested.namespace },
      settings: () => this.settings.onRequest,
      isHeld: (text) => this.requested.isHeld(text),
    })
    this.requested.stands = this.places
    this.health = new HealthNodes(
      addressSpace,
      context.links,
      ground.permits,
      this.places,
      (id, signal) => context.walkLink?.(id, signal) ?? null,
    )
    this.alarms = new AlarmNodes(addressSpace, {
      ...{
        alarms: context.alarms,
        permits: ground.permits,
        tell,
        whoAsks: (client) => writerOf(sessionOf(client), guests, context.name).who,
      },
      shows: (path) => this.shows.at(path) !== 'nothing',
    })
    this.history = historyService({ addressSpace, past: context.past, permits: ground.permits, tell })
    this.setTags([...all.values()], [])
    this.equipment.modelChanged()
    this.flat.take(settings.shortNames)
    this.health.show(settings.health)
  }

  /** Tags of the site that are new, changed or gone. */
  setTags(changed: readonly OutletTag[], removed: readonly Handle[]) {
    const gone = [...removed, ...changed.filter((tag) => !this.isShown(tag)).map(({ handle }) => handle)]
    const shown = changed.filter((tag) => this.isShown(tag)).map((tag) => this.asShown(tag))
    for (const handle of gone) this.shown.delete(handle)
    for (const tag of shown) this.shown.set(tag.handle, tag)
    this.deep.change(shown, gone)
    this.flat.change(changed, removed, shown, gone)
    this.alarms.tagsChanged(changed)
  }

  take(settings: OpcuaServerSettings) {
    const before = this.settings
    this.settings = settings
    this.requested.take(settings.onRequest)
    this.health.show(settings.health)
    this.shows = new FolderRules(settings.shows)
    if (JSON.stringify([before.shows, before.paired]) !== JSON.stringify([settings.shows, settings.paired])) {
      this.setTags([...this.all.values()], [])
      this.equipment.modelChanged()
      this.alarms.take()
    }
    if (JSON.stringify(before.shortNames) !== JSON.stringify(settings.shortNames)) this.flat.take(settings.shortNames)
  }

  modelChanged() {
    this.equipment.modelChanged()
  }

  announce(handles: readonly Handle[]) {
    this.deep.announce(handles)
    this.flat.announce(handles)
    this.requested.announce(handles)
  }

  get pending() {
    return this.deep.pending + this.flat.pending
  }

  async settled() {
    await this.deep.settled()
    await this.flat.settled()
    await this.equipment.settled()
    await this.alarms.settled()
  }

  close() {
    this.deep.close()
    this.flat.close()
    this.equipment.close()
    this.requested.close()
    this.health.close()
    this.places.close()
    this.alarms.close()
  }

  /** What came from a copy is not told back to it: each would take over what the other took over, without end. */
  private isShown({ path, linkId }: OutletTag): boolean {
    if (this.shows.at(path) === 'nothing') return false
    const { paired } = this.settings
    return !paired || linkId === undefined || this.context.link(linkId)?.partner !== paired.fingerprint
  }

  private asShown(tag: OutletTag): OutletTag {
    const may = lesser(this.shows.at(tag.path), tag.writable ? 'write' : 'read')
    return { ...tag, writable: may === 'write' }
  }
}
