import {
  DataValue,
  HistoryData,
  HistoryModifiedData,
  HistoryReadResult,
  HistoryUpdateType,
  ObjectIds,
  ModificationInfo,
  ReadAtTimeDetails,
  ReadProcessedDetails,
  ReadRawModifiedDetails,
  StatusCode,
  StatusCodes,
  TimestampsToReturn,
  Variant,
  resolveNodeId,
  DataType as UaType,
  type AddressSpace,
  type HistoryReadRequest,
  type HistoryReadValueId,
  type ISessionContext,
} from 'node-opcua'
import { z } from 'zod'
import { aggregateOf, aggregates, intervalsAsked, processed, usualShare, type Aggregate, type Processed } from '#core/opcua/processed'
import { isNumeric } from '#core/tags/types'
import type { StoredSample } from '#db/history/samples'
import { statusCodeOf, variantOf } from '../../opcua/variants'
import { sampleRecorded } from '#core/history/recordedValue'
import { whyNot, type Past } from '../../history/past'
import type { OutletTag } from '../driver'
import { shownBy, type Permits } from './tagVariable'

/** So many values go out in one answer; the rest is asked for by a continuation point. */
const mostValues = 10_000
export const historyCapabilities = { accessHistoryDataCapability: true, maxReturnDataValues: mostValues }
/** A bound is looked for anywhere in what is kept. */
const everBefore = 0
const farthest = 8_640_000_000_000

interface Ground {
  addressSpace: AddressSpace
  past: Past
  permits: Permits
  tell(problem: string): void
}

interface Answering {
  tag: OutletTag
  past: Past
  stamps: TimestampsToReturn
  /** Where an earlier answer ended; null: it is the first. */
  goesOn: GoesOn | null
}

/** A continuation point carries where to go on: nothing is held for a client that never comes back. */
const goesOnContract = z.object({ at: z.number(), inBounds: z.boolean().default(false) })
type GoesOn = z.output<typeof goesOnContract>
const pointOf = (goesOn: GoesOn): Buffer => Buffer.from(JSON.stringify(goesOn))

/** What clients ask of the past: samples, those that were replaced, values at times, aggregates (OPC 10000-11, 6.5). */
export const historyService = ({ addressSpace, past, permits, tell }: Ground) => {
  listAggregates(addressSpace)
  let isTold = false
  const one = async (context: ISessionContext, wanted: HistoryReadValueId, request: HistoryReadRequest, i: number) => {
    const shown = shownBy.get(addressSpace.findNode(wanted.nodeId) ?? addressSpace)
    if (!shown?.alive) return refused(addressSpace.findNode(wanted.nodeId) ? StatusCodes.BadHistoryOperationUnsupported : StatusCodes.BadNodeIdUnknown) // prettier-ignore
    if (permits.may(context, shown.tag.path) === 'nothing') return refused(StatusCodes.BadUserAccessDenied)
    if (request.timestampsToReturn > TimestampsToReturn.Both) return refused(StatusCodes.BadTimestampsToReturnInvalid)
    if (request.releaseContinuationPoints) return new HistoryReadResult({ statusCode: StatusCodes.Good })
    const goesOn = readPoint(wanted.continuationPoint)
    if (goesOn === 'unknown') return refused(StatusCodes.BadContinuationPointInvalid)
    try {
      return await answer({ tag: shown.tag, past, stamps: request.timestampsToReturn, goesOn }, request, i)
    } catch (error) {
      if (!isTold) tell(`what was recorded cannot be read for clients: ${whyNot(error)}`)
      isTold = true
      return refused(StatusCodes.BadResourceUnavailable)
    }
  }
  return (context: ISessionContext, request: HistoryReadRequest): Promise<HistoryReadResult[]> =>
    Promise.all((request.nodesToRead ?? []).map((wanted, i) => one(context, wanted, request, i)))
}

/** Where clients look for what can be worked out (OPC 10000-13, 4.2.2). */
const listAggregates = (addressSpace: AddressSpace) => {
  for (const folder of [ObjectIds.Server_ServerCapabilities_AggregateFunctions, ObjectIds.HistoryServerCapabilities_AggregateFunctions])
    for (const id of Object.keys(aggregates))
      addressSpace.findNode(resolveNodeId(folder))?.addReference({ referenceType: 'Organizes', nodeId: resolveNodeId(Number(id)) })
}

const refused = (statusCode: StatusCode) => new HistoryReadResult({ statusCode })

const readPoint = (point: Buffer | null | undefined): GoesOn | null | 'unknown' => {
  if (!point || point.length === 0) return null
  try {
    return goesOnContract.parse(JSON.parse(point.toString()))
  } catch {
    return 'unknown'
  }
}

const answer = (answering: Answering, { historyReadDetails: details, nodesToRead }: HistoryReadRequest, i: number) => {
  if (details instanceof ReadRawModifiedDetails) return details.isReadModified ? modified(answering, details) : raw(answering, details)
  if (details instanceof ReadAtTimeDetails) return atTimes(answering, details)
  if (!(details instanceof ReadProcessedDetails)) return refused(StatusCodes.BadHistoryOperationUnsupported)
  if (details.aggregateType?.length !== nodesToRead?.length) return refused(StatusCodes.BadAggregateListMismatch)
  const aggregate = details.aggregateType![i]!
  const how = aggregateOf(aggregate.namespace, aggregate.value)
  return how ? aggregated(answering, details, how) : refused(StatusCodes.BadAggregateNotSupported)
}

const told = (dataValues: DataValue[], continuationPoint: Buffer | undefined, statusCode: StatusCode = StatusCodes.Good) =>
  new HistoryReadResult({
    historyData: new HistoryData({ dataValues }),
    statusCode: dataValues.length === 0 && !continuationPoint ? StatusCodes.GoodNoData : statusCode,
    ...(continuationPoint ? { continuationPoint } : {}),
  })

/** Info bits of a status code: the type that goes with a value, and how the historian came to it (OPC 10000-4, 7.39.1). */
const historyBits = { calculated: 0x0401, interpolated: 0x0402, partial: 0x0004, extra: 0x0408 }

const { Source, Server, Both } = TimestampsToReturn
const valueAt = ({ tag, stamps }: Pick<Answering, 'tag' | 'stamps'>, sample: StoredSample, bits?: number): DataValue => {
  const { value, quality } = sampleRecorded(sample, tag.type)
  const status = statusCodeOf(quality)
  return new DataValue({
    value: variantOf(value, tag.type),
    statusCode: bits ? StatusCode.makeStatusCode(status, bits) : status,
    ...(stamps === Source || stamps === Both ? { sourceTimestamp: new Date(sample.at) } : {}),
    ...(stamps === Server || stamps === Both ? { serverTimestamp: new Date(sample.arrived) } : {}),
  })
}

/** A request without one of its ends has the earliest time of the standard there. */
const momentOf = (date: Date | null | undefined): number | null => (date && date.getTime() > -11_644_473_600_000 ? date.getTime() : null)

interface Span {
  /** No earlier than, and earlier than; Unix milliseconds. */
  from: number
  to: number
  isBackwards: boolean
  most: number
}

/** Which samples are meant; null: too little was said. Where both ends are the same, what is just then. */
const spanOf = ({ startTime, endTime, numValuesPerNode }: ReadRawModifiedDetails, goesOn: GoesOn | null): Span | null => {
  const [start, end] = [momentOf(startTime), momentOf(endTime)]
  if ([start, end, numValuesPerNode || null].filter((one) => one !== null).length < 2) return null
  const most = Math.min(numValuesPerNode || mostValues, mostValues)
  const isBackwards = start === null || (end !== null && end < start)
  if (isBackwards) return { from: start === null ? everBefore : end! + 1, to: goesOn?.at ?? (start ?? end!) + 1, isBackwards, most }
  return { from: goesOn ? goesOn.at + 1 : start, to: end === null ? farthest : Math.max(end, start + 1), isBackwards, most }
}

/** A value of an answer; the bound at the end has no time to go on from. */
interface Listed {
  at: number | null
  value: DataValue
}

const raw = async (answering: Answering, details: ReadRawModifiedDetails) => {
  const { tag, past, goesOn } = answering
  const span = spanOf(details, goesOn)
  if (!span) return refused(StatusCodes.BadHistoryOperationInvalid)
  const { from, to, isBackwards, most } = span
  const found = goesOn?.inBounds ? [] : await past.samples({ id: tag.id, from, to, isBackwards, most: most + 1 })
  // one that took the place of others says so (OPC 10000-11, 6.5.3.2)
  const hiding = new Set(found.length > 0 ? await past.hiding(spanAround(tag.id, found)) : [])
  const bitsOf = ({ at }: StoredSample) => (hiding.has(at) ? historyBits.extra : undefined)
  const listed: Listed[] = found.map((sample) => ({ at: sample.at, value: valueAt(answering, sample, bitsOf(sample)) }))
  if (!details.returnBounds) return firstOf(listed, most)
  const first = isBackwards ? to - 1 : from
  if (!goesOn && found[0]?.at !== first) listed.unshift({ at: first, value: await boundAt(answering, first, !isBackwards) })
  const [start, end] = [momentOf(details.startTime), momentOf(details.endTime)]
  if (found.length <= most && start !== null && end !== null && start !== end)
    listed.push({ at: null, value: await boundAt(answering, end, isBackwards) })
  return firstOf(listed, most)
}

const spanAround = (id: number, [first, ...rest]: readonly StoredSample[]) => {
  const ends = [first!.at, (rest.at(-1) ?? first!).at]
  return { id, from: Math.min(...ends), to: Math.max(...ends) + 1 }
}

/** As many as one answer takes, and where the next one goes on. */
const firstOf = (listed: readonly Listed[], most: number) => {
  const values = listed.slice(0, most).map(({ value }) => value)
  if (listed.length <= most) return told(values, undefined)
  return told(values, pointOf({ at: listed[most - 1]!.at!, inBounds: listed[most]!.at === null }))
}

/** What held then, or what came next; a bound that is not there says so (OPC 10000-11, 6.5.3.2). */
const boundAt = async ({ tag, past, stamps }: Answering, at: number, isBefore: boolean): Promise<DataValue> => {
  const [found] = isBefore ? await past.at(tag.id, [at]) : await past.samples({ id: tag.id, from: at, to: farthest, most: 1 })
  if (found) return valueAt({ tag, stamps }, found)
  return new DataValue({ value: new Variant(null as never), statusCode: StatusCodes.BadBoundNotFound, sourceTimestamp: new Date(at) })
}

const modified = async (answering: Answering, details: ReadRawModifiedDetails) => {
  if (details.returnBounds) return refused(StatusCodes.BadInvalidArgument)
  const span = spanOf(details, answering.goesOn)
  if (!span) return refused(StatusCodes.BadHistoryOperationInvalid)
  const { from, to, isBackwards, most } = span
  // those of one time are told in one answer
  const found = await answering.past.replaced({ id: answering.tag.id, from, to, isBackwards, most: mostValues + 1 })
  const end = found.length <= most ? found.length : found.findIndex((sample, i) => i >= most && sample.at !== found[i - 1]!.at)
  const samples = end < 0 ? found : found.slice(0, end)
  const historyData = new HistoryModifiedData({
    dataValues: samples.map((sample) => valueAt(answering, sample)),
    modificationInfos: samples.map(
      ({ replacedAt }) =>
        new ModificationInfo({ modificationTime: new Date(replacedAt), updateType: HistoryUpdateType.Replace, userName: '' }),
    ),
  })
  const continuation = samples.length < found.length ? { continuationPoint: pointOf({ at: samples.at(-1)!.at, inBounds: false }) } : {}
  return new HistoryReadResult({ historyData, statusCode: samples.length > 0 ? StatusCodes.Good : StatusCodes.GoodNoData, ...continuation })
}

/** Series are stepped: what held then. */
const atTimes = async (answering: Answering, { reqTimes }: ReadAtTimeDetails) => {
  const times = (reqTimes ?? []).map((date) => date?.getTime() ?? 0)
  if (times.length > mostValues) return refused(StatusCodes.BadTooManyOperations)
  const { tag, past, stamps } = answering
  const found = await past.at(tag.id, times)
  const values = found.map((sample, i) => {
    const at = times[i]!
    if (!sample) return new DataValue({ statusCode: StatusCodes.BadNoData, sourceTimestamp: new Date(at) })
    return sample.at === at ? valueAt(answering, sample) : valueAt({ tag, stamps }, { ...sample, at }, historyBits.interpolated)
  })
  return told(values, undefined)
}

const aggregated = async (answering: Answering, details: ReadProcessedDetails, how: Aggregate) => {
  const { tag, past, goesOn } = answering
  const { aggregateConfiguration: configuration, processingInterval: step } = details
  if (!isNumeric(tag.type) && tag.type !== 'bool') return refused(StatusCodes.BadAggregateInvalidInputs)
  const isUsual = !configuration || configuration.useServerCapabilitiesDefaults
  if (!isUsual && (!configuration.treatUncertainAsBad || configuration.useSlopedExtrapolation))
    return refused(StatusCodes.BadAggregateConfigurationRejected)
  const [start, end] = [goesOn?.at ?? momentOf(details.startTime), momentOf(details.endTime)]
  if (start === null || end === null || start === end || !(step >= 0)) return refused(StatusCodes.BadInvalidArgument)
  const { borders, isBackwards, next } = intervalsAsked(start, end, step, mostValues)
  const share = isUsual ? usualShare : { good: configuration.percentDataGood, bad: configuration.percentDataBad }
  const intervals = await past.intervals(tag.id, borders)
  const values = intervals.map((interval) => processedValue(answering, how, processed(how, interval, { isBackwards, step, share })))
  return told(isBackwards ? values.toReversed() : values, next === null ? undefined : pointOf({ at: next, inBounds: false }))
}

const processedValue = ({ tag, stamps }: Answering, how: Aggregate, { at, value, quality, isPartial }: Processed) => {
  const bits = isPartial ? historyBits.calculated | historyBits.partial : historyBits.calculated
  const isOfType = how === 'minimum' || how === 'maximum'
  const variant = () => {
    if (value === null) return new Variant(null as never)
    if (isOfType) return variantOf(sampleRecorded({ number: value, text: null, quality }, tag.type).value, tag.type)
    return new Variant({ dataType: how === 'count' ? UaType.Int32 : UaType.Double, value })
  }
  return new DataValue({
    value: variant(),
    statusCode: StatusCode.makeStatusCode(statusCodeOf(quality), bits),
    ...(stamps === Source || stamps === Both ? { sourceTimestamp: new Date(at) } : {}),
    ...(stamps === Server || stamps === Both ? { serverTimestamp: new Date(at) } : {}),
  })
}
