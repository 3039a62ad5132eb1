import { DataType, NodeId, NodeIdType, type AddressSpace, type Namespace, type UAObject, type UAVariable, Variant } from 'node-opcua'
import { healthNamespace, walkMethod } from '#core/opcua/ourNamespaces'
import type { CheckPart } from '#shared/diagnosis'
import type { Flow } from '#shared/flow'
import type { UnitStatus } from '#shared/status'
import type { NamedLink } from '../driver'
import { addWalk } from './walkNodes'
import type { PlaceNodes } from './places'
import { guard, seenIf, type Permits } from './tagVariable'

const everyMs = 1000
const stateCode: Record<Flow, number> = { off: 0, broken: 1, late: 2, flowing: 3 }

/** What is told of a link, or of one of its units; each becomes a variable. */
type Facts = Record<string, { type: DataType; value: unknown }>

const text = (value: string) => ({ type: DataType.String, value })
const count = (value: number) => ({ type: DataType.UInt32, value: value >>> 0 })

const shared = (status: Pick<NamedLink | UnitStatus, 'flow' | 'sentence' | 'answerMs' | 'requests' | 'failures'>): Facts => ({
  State: text(status.flow),
  StateCode: { type: DataType.Byte, value: stateCode[status.flow] },
  Sentence: text(status.sentence),
  Requests: count(status.requests),
  Failures: count(status.failures),
  /** Milliseconds; NaN: not measured yet. */
  AnswerTime: { type: DataType.Double, value: status.answerMs ?? NaN },
})

const factsOfLink = (link: NamedLink, lastError: string): Facts => ({
  ...shared(link),
  Tags: count(link.tags),
  GoodTags: count(link.goodTags),
  LastError: text(lastError),
})
const factsOfUnit = (unit: UnitStatus): Facts => ({ ...shared(unit), LastError: text(unit.lastFault?.what ?? '') })

interface Told {
  object: UAObject
  variables: Map<string, UAVariable>
}

/**
 * Links as objects below Objects/Links, so that a control room sees for itself what is wrong. Errors name
 * hosts and ports: they are for those who may see the whole site.
 */
export class HealthNodes {
  private namespace: Namespace
  private top: UAObject | null = null
  private told = new Map<string, Told>()
  /** Links whose inside is offered, by name. */
  private offered = new Map<string, number>()
  private lastErrors = new Map<string, string>()
  private timer: NodeJS.Timeout | null = null
  private seen = seenIf((client) => this.permits.may(client, '') !== 'nothing')

  constructor(
    private addressSpace: AddressSpace,
    private links: () => NamedLink[],
    readonly permits: Permits,
    /** Shows what is behind a link, as long as that is shown. */
    private places: Pick<PlaceNodes, 'offer' | 'withdraw'>,
    readonly walk: (linkId: number, signal: AbortSignal) => AsyncGenerator<CheckPart> | null,
  ) {
    this.namespace = addressSpace.registerNamespace(healthNamespace)
  }

  show(on: boolean) {
    if (on === (this.timer !== null)) return
    if (on) {
      this.timer = setInterval(() => this.refresh(), everyMs)
      this.refresh()
    } else this.close()
  }

  close() {
    if (this.timer) clearInterval(this.timer)
    this.timer = null
    for (const id of [...this.told.keys()].reverse()) this.drop(id)
    if (this.top) this.addressSpace.deleteNode(this.top)
    this.top = null
  }

  private refresh() {
    const seen = new Set<string>()
    for (const link of this.links()) {
      const object = this.tell(seen, link.name, link.name, this.topFolder(), factsOfLink(link, this.lastErrorOf(link)))
      if (!this.offered.has(link.name)) addWalk(this.namespace, object, this.nodeId(`${link.name}/${walkMethod}`), link.id, this)
      this.offered.set(link.name, link.id)
      this.places.offer(link.id, link.name, object)
      if (!link.units || link.units.length < 2) continue
      for (const unit of link.units) this.tell(seen, `${link.name}/${unit.unit}`, `Unit ${unit.unit}`, object, factsOfUnit(unit))
    }
    for (const id of [...this.told.keys()].reverse()) if (!seen.has(id)) this.drop(id)
  }

  /** It stays after the link has recovered: that is when people come to look. */
  private lastErrorOf({ name, flow, fault, units }: NamedLink): string {
    const now = (flow === 'off' ? null : fault?.what) ?? units?.find(({ lastFault }) => lastFault)?.lastFault?.what
    if (now) this.lastErrors.set(name, now)
    return this.lastErrors.get(name) ?? ''
  }

  private tell(seen: Set<string>, id: string, name: string, parent: UAObject, facts: Facts): UAObject {
    seen.add(id)
    const told = this.told.get(id) ?? this.make(id, name, parent, facts)
    for (const [fact, { type, value }] of Object.entries(facts)) {
      const variable = told.variables.get(fact)!
      if (!Object.is(variable.readValue().value.value, value)) variable.setValueFromSource(new Variant({ dataType: type, value }))
    }
    return told.object
  }

  private make(id: string, name: string, parent: UAObject, facts: Facts): Told {
    const object = this.namespace.addObject({ organizedBy: parent, browseName: name, nodeId: this.nodeId(id), ...this.seen })
    const variables = new Map<string, UAVariable>()
    for (const [fact, { type, value }] of Object.entries(facts)) {
      const variable = this.namespace.addVariable({
        componentOf: object,
        browseName: fact,
        nodeId: this.nodeId(`${id}/${fact}`),
        dataType: type,
        accessLevel: 'CurrentRead',
        minimumSamplingInterval: everyMs,
        value: { dataType: type, value },
      })
      guard(variable, this, '')
      variables.set(fact, variable)
    }
    const told = { object, variables }
    this.told.set(id, told)
    return told
  }

  private drop(id: string) {
    const told = this.told.get(id)!
    this.told.delete(id)
    const linkId = this.offered.get(id)
    if (linkId !== undefined) this.places.withdraw(linkId)
    this.offered.delete(id)
    for (const variable of told.variables.values()) this.addressSpace.deleteNode(variable)
    const walk = this.addressSpace.findNode(this.nodeId(`${id}/${walkMethod}`))
    if (walk) this.addressSpace.deleteNode(walk)
    this.addressSpace.deleteNode(told.object)
  }

  private topFolder(): UAObject {
    this.top ??= this.namespace.addFolder(this.addressSpace.rootFolder.objects, {
      browseName: 'Links',
      nodeId: this.nodeId('/'),
      ...this.seen,
    })
    return this.top
  }

  private nodeId(id: string) {
    return new NodeId(NodeIdType.STRING, id, this.namespace.index)
  }
}
