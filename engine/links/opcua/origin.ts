import { DataType as UaType, VariantArrayType, type DataValue } from 'node-opcua'
import { fault, type Fault } from '#core/faults/catalogue'
import { follow } from '#core/opcua/member'
import { formatNodeAddress, type NodeAddress } from '#core/opcua/nodeId'
import { isGood, qualityName, qualityText, statusWords } from '#core/tags/quality'
import { duration } from '#core/text/duration'
import { valueText } from '#core/text/number'
import type { ValueOrigin, ValueStage } from '#shared/values'
import { typeFromUa, valueOf } from '../../opcua/variants'
import type { Handle } from '../../table/tagTable'
import type { SampleSink } from '../../table/intake'
import type { PointFinding } from '../driver'
import { madeStages, passedStage } from '../stages'
import type { Item, Target } from './items'
import { fittingIn, isEmpty } from './sample'

/** Tells how a tag's value is made, from what the server told last to what consumers get. */
export const originOf = (item: Item, target: Target, table: SampleSink): ValueOrigin => {
  const { point } = target
  const address = formatNodeAddress(item.address)
  if (item.refusal !== null) return { ...nothing(address), fault: refusalOf(item, item.refusal) }
  if (!item.last) return nothing(address)
  const raw = isEmpty(item.last.value) ? null : fittingIn(target, item.last.value)
  return {
    stages: [
      ...stagesOf(item.last, target, `notified, at most every ${item.given ?? item.interval} ms${deadbandNote(item)}, with source time`),
      ...(raw === null ? [] : madeStages({ scaling: point.scaling, odd: target.odd }, raw)),
      passedStage(point.handle, point.type, point.scaling, table),
    ],
    readings: [],
    wordsFrom: address,
    goesTo: [],
    fault: unfit(item.last, target),
  }
}

const deadbandNote = ({ filterRefusal }: Item) =>
  filterRefusal === null ? '' : `, without the deadband, which the server does not take (${qualityName(filterRefusal)})`

/** Why a good value of the server is none of the tag's. */
const unfit = (told: DataValue, target: Target): Fault | null => {
  if (!isGood(told.statusCode.value) || isEmpty(told.value) || fittingIn(target, told.value) !== null) return null
  const theirs = typeFromUa(told.value.dataType, told.value.arrayType === VariantArrayType.Scalar ? -1 : 1)
  return fault('opcua.unfit', { told: wholeText(told), type: target.point.type, theirs })
}

const nothing = (address: string): ValueOrigin => ({ stages: [], readings: [], wordsFrom: address, goesTo: [], fault: null })

/** What the server refuses of an item, or has otherwise than its tags say. */
export const findingsOf = (item: Item): PointFinding[] =>
  item.targets.flatMap((target): PointFinding[] => {
    const { handle } = target.point
    if (item.refusal !== null) return [{ handle, kind: 'refused', text: refusalOf(item, item.refusal).what }]
    const why = item.last && unfit(item.last, target)
    return [...(why ? [{ handle, kind: 'type' as const, text: why.what }] : []), ...slower(item, handle)]
  })

const slower = ({ given, interval }: Item, handle: Handle): PointFinding[] =>
  given === null || given <= interval
    ? []
    : [
        {
          handle,
          kind: 'interval',
          text: `is told every ${duration(given)} and not every ${duration(interval)}: the server allows no shorter interval`,
        },
      ]

/** Why the server does not watch an item. */
export const refusalOf = ({ noNamespace, address }: Item, refusal: number): Fault =>
  noNamespace ? missingNamespace(address) : refusalFault(refusal, formatNodeAddress(address))

export const missingNamespace = ({ namespace, index }: NodeAddress): Fault =>
  fault('opcua.no-namespace', { uri: namespace ?? `number ${index}` })

export const refusalFault = (code: number, node: string): Fault => {
  const status = qualityName(code)
  return status === 'BadNodeIdUnknown' || status === 'BadNodeIdInvalid'
    ? fault('opcua.no-node', { node, status }, status)
    : fault('opcua.refused', { what: `give ${node}`, status, words: statusWords(status) }, status)
}

/** What the server said, and the way into it. */
export const stagesOf = (dataValue: DataValue, target: Pick<Target, 'steps' | 'point'>, how: string): ValueStage[] => {
  const { value, statusCode, sourceTimestamp } = dataValue
  const type = value ? `${UaType[value.dataType]}${value.arrayType === VariantArrayType.Scalar ? '' : ' array'}` : 'nothing'
  const told: ValueStage = {
    title: 'Told by the server',
    text: `${wholeText(dataValue)} · ${qualityText(statusCode.value)}`,
    detail: `${type}, ${how}`,
    at: sourceTimestamp?.getTime() ?? 0,
  }
  if (target.steps.length === 0) return [told]
  const member = memberText(target.steps)
  const inside: unknown = follow(value?.value, target.steps)
  return [
    told,
    { title: `Member ${member}`, text: inside === undefined ? 'not there' : memberValue(inside), detail: `read as ${target.point.type}` },
  ]
}

const longest = 120
const wholeText = ({ value }: DataValue) => {
  const whole = value ? valueOf(value) : null
  const text = valueText(whole)
  return text.length > longest ? `${text.slice(0, longest)}…` : text
}

const memberValue = (inside: unknown) =>
  typeof inside === 'number' ? valueText(inside) : typeof inside === 'object' ? JSON.stringify(inside) : String(inside as string)

export const memberText = (steps: readonly (string | number)[]) =>
  steps.reduce<string>((text, step) => (typeof step === 'number' ? `${text}[${step}]` : text ? `${text}.${step}` : step), '')
