import {
  DataType,
  LocalizedText,
  NodeClass,
  NodeId,
  NodeIdType,
  StatusCodes,
  Variant,
  type AddressSpace,
  type CallMethodResultOptions,
  type ISessionContext,
  type Namespace,
  type StatusCode,
  type UAObject,
  type UAVariable,
} from 'node-opcua'
import type { AlarmSeverity } from '#core/alarms/limits'
import { counted } from '#core/text/counted'
import type { Alarm, AlarmEvent } from '#shared/alarms'
import { beforeMethod, type Condition } from '../../opcua/internals'
import type { AlarmBook, OutletTag } from '../driver'
import { tagNamespace } from './addressSpace'
import { Slices } from './slices'
import { guard, seenIf, type Permits } from './tagVariable'

export const alarmNamespace = 'urn:keen-conduit:alarms'

/** What was last to be told of it. */
const endOf = (alarm: Alarm, who: string, comment: string): Alarm => ({
  ...{ ...alarm, active: false, seen: alarm.seen ?? { by: who, at: Date.now() } },
  comment: comment === '' ? alarm.comment : { text: comment, by: who, at: Date.now() },
})

/** A condition is some fifty nodes: beyond so many alarms at once, further ones stand in our own list until there is room. */
const mostConditions = 500
/** One takes the package 20 ms: so long the plant has its turn between two. */
const restMs = 20
/** Of 1 to 1000 (OPC 10000-5, 6.4.2). */
const severityOf: Record<AlarmSeverity, number> = { note: 200, caution: 500, trouble: 800 }

/** The conditions of one tag. */
interface Home {
  object: UAObject
  count: number
}

interface Told {
  condition: Condition
  alarm: Alarm
}

interface Around {
  alarms: AlarmBook
  permits: Permits
  /** Whether tags of this path are to be had here. */
  shows(path: string): boolean
  /** By whom something is asked, in words. */
  whoAsks(context: ISessionContext): string
  tell(problem: string): void
}

/**
 * Alarms as conditions (OPC 10000-9) below Objects/Alarms: each as long as it is active or not acknowledged. Whoever may read its tag
 * is told of it, and whoever may write there may acknowledge it and comment on it.
 */
export class AlarmNodes {
  private namespace: Namespace
  private top: UAObject
  private told = new Map<string, Told>()
  private keys = new Map<string, string>()
  private homes = new Map<string, Home>()
  /** What became of alarms that clients are not told of yet; null: nothing, it is only to be shown. */
  private due = new Map<string, AlarmEvent | null>()
  /** Those that there is no room for. */
  private leftOut = new Set<string>()
  private slices = new Slices(() => this.step(), restMs)
  private stop: () => void

  constructor(
    private addressSpace: AddressSpace,
    private around: Around,
  ) {
    addressSpace.installAlarmsAndConditionsService()
    // a client may name the method of the type, or the one of the condition
    const [type, acknowledgeable] = ['ConditionType', 'AcknowledgeableConditionType'].map((name) => addressSpace.findEventType(name)!)
    this.takeConditionMethods(type!)
    this.takeAcknowledge(acknowledgeable!)
    this.namespace = addressSpace.registerNamespace(alarmNamespace)
    const { permits } = around
    this.top = this.namespace.addObject({
      ...{ browseName: 'Alarms', nodeId: this.idOf(''), organizedBy: addressSpace.rootFolder.objects, eventNotifier: 1 },
      ...{ eventSourceOf: addressSpace.rootFolder.objects.server as unknown as UAObject },
      ...seenIf((client) => permits.opens(client, '')),
    })
    this.stop = around.alarms.listen((event) => this.note(event.key, event))
    for (const key of around.alarms.keys()) this.note(key, null)
  }

  /** Whether an event may be told to somebody: those of alarms go to who may read their tags. @param source of the event */
  mayHear(context: ISessionContext, source: NodeId): boolean {
    const known = this.told.get(this.keys.get(source.toString()) ?? '')
    return !known || this.around.permits.may(context, known.alarm.path) !== 'nothing'
  }

  /** Tags that are called otherwise have other readers. */
  tagsChanged(changed: readonly OutletTag[]) {
    if (this.told.size === 0) return
    const paths = new Map(changed.map(({ id, path }) => [id, path]))
    for (const [key, { alarm }] of this.told) {
      const path = paths.get(alarm.tagId)
      if (path !== undefined && path !== alarm.path) this.note(key, null)
    }
  }

  /** Other tags may be shown from now on. */
  take() {
    for (const [key, { alarm }] of this.told) if (!this.around.shows(alarm.path)) this.note(key, null)
    for (const key of this.around.alarms.keys()) if (!this.told.has(key) && !this.due.has(key)) this.note(key, null)
  }

  settled() {
    return this.slices.settled()
  }

  close() {
    this.stop()
    this.due.clear()
    this.leftOut.clear()
  }

  private idOf(key: string) {
    return new NodeId(NodeIdType.STRING, key === '' ? 'Alarms' : key, this.namespace.index)
  }

  /** Told at once where there is little to tell; of a flood each alarm is told as it is when its turn comes. */
  private note(key: string, event: AlarmEvent | null) {
    this.due.set(key, event)
    this.slices.start()
  }

  private step(): boolean {
    for (const [key, event] of this.due) {
      this.due.delete(key)
      this.attempt(key, event)
      return true
    }
    return false
  }

  /** One that cannot be told keeps no other from being told. */
  private attempt(key: string, event: AlarmEvent | null) {
    try {
      this.follow(key, event)
    } catch (error) {
      this.around.tell(`An alarm of ${this.around.alarms.get(key)?.path ?? key} cannot be told to clients: ${(error as Error).message}`)
    }
  }

  private follow(key: string, event: AlarmEvent | null) {
    const alarm = this.around.alarms.get(key)
    const before = this.told.get(key)
    // among those of another tag, for other readers
    const isMoved = alarm && before && (alarm.path !== before.alarm.path || !this.around.shows(alarm.path))
    if (isMoved) this.remove(key)
    const known = isMoved ? undefined : before
    if (alarm && !known) return this.show(alarm)
    this.leftOut.delete(key)
    if (!known) return
    this.bringTo(known, alarm ?? endOf(known.alarm, event?.who ?? '', event?.comment ?? ''), alarm !== undefined)
    if (!alarm) this.remove(key)
  }

  private show(alarm: Alarm) {
    if (!this.around.shows(alarm.path)) return
    if (this.told.size >= mostConditions) {
      if (this.leftOut.size === 0)
        this.around.tell(`More than ${counted(mostConditions, 'alarm')} at once: clients are told of further ones when others are over.`)
      this.leftOut.add(alarm.key)
      return
    }
    const told = { condition: this.makeCondition(alarm), alarm }
    this.told.set(alarm.key, told)
    this.keys.set(told.condition.nodeId.toString(), alarm.key)
    this.bringTo(told, alarm, true)
  }

  private makeCondition({ key, path, limit }: Alarm): Condition {
    const home = this.homeOf(path)
    const source = this.addressSpace.findNode(new NodeId(NodeIdType.STRING, path, this.addressSpace.getNamespaceIndex(tagNamespace)))
    const condition = this.namespace.instantiateAlarmCondition('AlarmConditionType', {
      ...{ browseName: limit, nodeId: this.idOf(key), componentOf: home, conditionOf: home, conditionSource: home },
      ...{ conditionName: limit, inputNode: NodeId.nullNodeId },
    })
    guardBelow(condition, this.around.permits, path)
    this.takeConditionMethods(condition)
    this.takeAcknowledge(condition)
    condition.sourceName.setValueFromSource(new Variant({ dataType: DataType.String, value: path }))
    if (source) condition.sourceNode.setValueFromSource(new Variant({ dataType: DataType.NodeId, value: source.nodeId }))
    return condition
  }

  /** Whoever may not read a tag sees none of what is below it here. */
  private homeOf(path: string): UAObject {
    const { permits } = this.around
    const known = this.homes.get(path) ?? {
      object: this.namespace.addObject({
        ...{ browseName: path, nodeId: this.idOf(`of ${path}`), componentOf: this.top, eventSourceOf: this.top, eventNotifier: 1 },
        ...seenIf((client) => permits.may(client, path) !== 'nothing'),
      }),
      count: 0,
    }
    known.count++
    this.homes.set(path, known)
    return known.object
  }

  private leaveHome(path: string) {
    const home = this.homes.get(path)
    if (!home || --home.count > 0) return
    this.homes.delete(path)
    this.namespace.deleteNode(home.object)
  }

  private bringTo(told: Told, alarm: Alarm, retain: boolean) {
    const branch = told.condition.currentBranch()
    told.alarm = alarm
    branch.setActiveState(alarm.active)
    if (branch.getAckedState() !== (alarm.seen !== null)) branch.setAckedState(alarm.seen !== null)
    if (alarm.comment) {
      branch.setComment(new LocalizedText({ text: alarm.comment.text }))
      branch.setClientUserId(alarm.comment.by)
    }
    told.condition.raiseNewCondition({
      ...{ message: alarm.text, severity: severityOf[alarm.severity], retain, time: new Date(alarm.over ?? alarm.since) },
      quality: alarm.isUnknown ? StatusCodes.BadNoCommunication : StatusCodes.Good,
    })
  }

  private remove(key: string) {
    const known = this.told.get(key)
    if (!known) return
    this.told.delete(key)
    this.keys.delete(known.condition.nodeId.toString())
    this.namespace.deleteNode(known.condition)
    this.leaveHome(known.alarm.path)
    this.letIn()
  }

  /** There is room for one more. */
  private letIn() {
    for (const key of this.leftOut) {
      this.leftOut.delete(key)
      return this.note(key, null)
    }
  }

  /** What clients ask of a condition, we do; who may not, and who asks for what is not theirs to decide, is refused. */
  private takeConditionMethods(owner: object) {
    beforeMethod(owner, 'addComment', (...asked) =>
      this.asked(...asked, (key, who, comment) => {
        const isThere = comment !== '' && this.around.alarms.comment(key, who, comment)
        return isThere ? StatusCodes.Good : StatusCodes.BadInvalidArgument
      }),
    )
    for (const name of ['enable', 'disable']) beforeMethod(owner, name, () => ({ statusCode: StatusCodes.BadUserAccessDenied }))
  }

  private takeAcknowledge(owner: object) {
    beforeMethod(owner, 'acknowledge', (...asked) =>
      this.asked(...asked, (key, who, comment) => {
        if (this.around.alarms.acknowledge([key], who, comment).length > 0) return StatusCodes.BadConditionBranchAlreadyAcked
        return StatusCodes.Good
      }),
    )
  }

  private asked(
    [eventId, comment]: readonly Variant[],
    context: ISessionContext & { object?: UAObject },
    work: (key: string, who: string, comment: string) => StatusCode,
  ): CallMethodResultOptions {
    const key = this.keys.get(context.object?.nodeId.toString() ?? '')
    const known = key === undefined ? undefined : this.told.get(key)
    if (!known) return { statusCode: StatusCodes.BadNodeIdUnknown }
    const right = this.around.permits.may(context, known.alarm.path)
    if (right === 'nothing') return { statusCode: StatusCodes.BadNodeIdUnknown }
    if (right !== 'write') return { statusCode: StatusCodes.BadUserAccessDenied }
    if (!known.condition.findBranchForEventId(eventId?.value as Buffer | null)) return { statusCode: StatusCodes.BadEventIdUnknown }
    const text = (comment?.value as LocalizedText | null)?.text ?? ''
    return { statusCode: work(key!, this.around.whoAsks(context), text) }
  }
}

/** All that a condition has is read by whom its tag concerns. */
const guardBelow = (node: UAObject | UAVariable, permits: Permits, path: string) => {
  for (const part of [...node.getComponents(), ...node.getProperties()]) {
    if (part.nodeClass === NodeClass.Variable) guard(part as UAVariable, { permits }, path)
    if (part.nodeClass !== NodeClass.Method) guardBelow(part as UAVariable, permits, path)
  }
}
