import { HistoryReadRequest, ReadRawModifiedDetails, TimestampsToReturn, type DataValue, type HistoryData } from 'node-opcua'
import { recordedValue } from '#core/history/recordedValue'
import { isGood, qualityName, statusWords } from '#core/tags/quality'
import { counted } from '#core/text/counted'
import { within } from '#pacing/within'
import type { Gappy, PastSample } from '../../history/filling'
import type { Handle } from '../../table/tagTable'
import type { SampleSink } from '../../table/intake'
import { nodeIdOf, type Item, type Target } from './items'
import { takeFor } from './sample'
import type { Services } from './services'

/** A stretch of which the record may lack something, by the far side’s clock, Unix ms. */
export interface Stretch {
  from: number
  to: number
}

/** What came of asking for what was missed. */
export interface Filled {
  tags: number
  values: number
  /** Tags of which the server keeps no record, and what it says to that. */
  notKept: number
  why: string
}

interface Around {
  services: Services
  namespaces: readonly string[]
  gaps: Gappy
  answerMs: number
  isOver(): boolean
  /** Is told of each tag that is done. */
  progress(done: number, of: number): void
}

/** One tag, and from when on something of it may be missing. */
interface Wanted {
  item: Item
  target: Target
  from: number
}

const nodesAtOnce = 50
const valuesAtOnce = 2000
const mostOfOurs = 100_000
/** Times of both sides are compared to so much, and a second more is asked for than was missed. */
const marginMs = 1000
/** It may answer later. */
const passing = new Set(['BadResourceUnavailable', 'BadTimeout', 'BadTooManyOperations', 'BadNoContinuationPoints', 'BadOutOfMemory'])
const boundNotFound = new Set(['BadBoundNotFound', 'BadBoundNotSupported'])

/**
 * Asks a server for what it recorded while it was out of reach (HistoryRead, OPC 10000-11, 6.5.3), and lays it into our record. In
 * the place of what we could only say of that time, that nobody told us anything, comes what held there. Rejects where the connection
 * does not last; what was filled in until then is right, and is filled in the same way again.
 *
 * @param since from when on, of a tag; null: nothing of it was recorded before
 */
export const fillMissed = async (
  items: readonly Item[],
  since: (handle: Handle) => Promise<number | null>,
  to: number,
  around: Around,
): Promise<Filled> => {
  const wanted = await wantedOf(items, since, around)
  const outcome: Filled = { tags: 0, values: 0, notKept: 0, why: '' }
  let done = 0
  for (let at = 0; at < wanted.length && !around.isOver(); at += nodesAtOnce) {
    const part = wanted.slice(at, at + nodesAtOnce)
    await fillPart(part, to, around, outcome)
    around.progress((done += part.length), wanted.length)
  }
  return outcome
}

/** Tags that are recorded here and watched there, the longest missed first. */
const wantedOf = async (items: readonly Item[], since: (handle: Handle) => Promise<number | null>, { gaps }: Around) => {
  const wanted: Wanted[] = []
  for (const item of items) {
    if (item.refusal !== null) continue
    for (const target of item.targets) {
      const { handle } = target.point
      const from = gaps.isRecorded(handle) ? await since(handle) : null
      if (from !== null) wanted.push({ item, target, from: Math.max(from, gaps.oldest()) })
    }
  }
  return wanted.sort((a, b) => a.from - b.from)
}

interface Open {
  weave: Weave
  nodeId: string
  continuationPoint: Buffer | null
}

const fillPart = async (part: readonly Wanted[], to: number, around: Around, outcome: Filled) => {
  const { namespaces, gaps } = around
  const from = part[0]!.from - marginMs
  let open: Open[] = []
  await gaps.settled()
  for (const { item, target } of part) {
    const nodeId = nodeIdOf(item, namespaces)
    if (nodeId === null) continue
    const ours = await gaps.samples(target.point.handle, from, to, mostOfOurs)
    open.push({ weave: new Weave(target, ours, to), nodeId, continuationPoint: null })
  }
  while (open.length > 0 && !around.isOver()) {
    const results = await readRaw(around, open, from, to + marginMs)
    const next: Open[] = []
    for (const [i, one] of open.entries()) {
      const { statusCode, historyData, continuationPoint } = results[i]!
      if (passing.has(statusCode.name)) throw new Error(statusWords(qualityName(statusCode.value)))
      if (statusCode.isBad()) {
        outcome.notKept++
        outcome.why ||= statusWords(qualityName(statusCode.value))
        continue
      }
      const values = (historyData as HistoryData | null)?.dataValues ?? []
      const isLast = !continuationPoint?.length
      const samples = one.weave.take(values, isLast)
      await gaps.fill(one.weave.handle, samples)
      outcome.values += samples.length
      if (!isLast) next.push({ ...one, continuationPoint })
      else if (one.weave.isEmpty) {
        outcome.notKept++
        outcome.why ||= 'it has no value of that time'
      } else outcome.tags++
    }
    open = next
  }
}

const readRaw = async ({ services, answerMs }: Around, open: readonly Open[], from: number, to: number) => {
  const historyReadDetails = new ReadRawModifiedDetails({
    ...{ isReadModified: false, numValuesPerNode: valuesAtOnce, returnBounds: true },
    ...{ startTime: new Date(from), endTime: new Date(to) },
  })
  const nodesToRead = open.map(({ nodeId, continuationPoint }) => ({ nodeId, ...(continuationPoint ? { continuationPoint } : {}) }))
  const request = new HistoryReadRequest({
    ...{ historyReadDetails, timestampsToReturn: TimestampsToReturn.Source, releaseContinuationPoints: false, nodesToRead },
  })
  const { results, responseHeader } = await within(answerMs, services.session.historyRead(request))
  if (results?.length !== open.length) throw new Error(responseHeader.serviceResult.name)
  return results
}

/** The record of one tag as it comes from there, woven into what we have of the same time. */
class Weave {
  readonly handle: Handle
  private held: PastSample | null = null
  private known: Map<number, { number: number; text: string | null; quality: number }>
  /** Times of which we could only say that nobody told us anything, the earliest first. */
  private doubted: number[]

  constructor(
    private target: Target,
    ours: readonly { at: number; quality: number; number: number; text: string | null }[],
    private to: number,
  ) {
    this.handle = target.point.handle
    this.known = new Map(ours.map((sample) => [sample.at, sample]))
    this.doubted = ours.filter(({ quality }) => !isGood(quality)).map(({ at }) => at)
  }

  /** The server had nothing at all. */
  get isEmpty() {
    return this.held === null
  }

  /** What has to be laid into our record. @param isLast no more comes */
  take(values: readonly DataValue[], isLast: boolean): PastSample[] {
    const into: PastSample[] = []
    for (const value of values) {
      const sample = this.sampleOf(value)
      if (!sample) continue
      this.holdUntil(sample.at, into)
      this.held = sample
      if (!this.isKnown(sample)) into.push(sample)
    }
    if (isLast) this.holdUntil(this.to, into)
    return into
  }

  /** What held before a time holds also where we doubted. */
  private holdUntil(at: number, into: PastSample[]) {
    while (this.doubted.length > 0 && this.doubted[0]! <= at) {
      const doubt = this.doubted.shift()!
      if (doubt < at && this.held) into.push({ ...this.held, at: doubt })
    }
  }

  private isKnown({ at, value, quality }: PastSample) {
    const ours = this.known.get(at)
    const { number, text } = recordedValue(value)
    return ours !== undefined && ours.quality === quality && Object.is(ours.number, number) && ours.text === text
  }

  private sampleOf(dataValue: DataValue): PastSample | null {
    const { statusCode, sourceTimestamp, value } = dataValue
    if (!sourceTimestamp || boundNotFound.has(statusCode.name)) return null
    const at = sourceTimestamp.getTime()
    let sample: PastSample | null = null
    const sink: Pick<SampleSink, 'set' | 'degrade' | 'confirm' | 'values'> = {
      set: (_, made, quality) => (sample = { at, value: made, quality }),
      degrade: (_, quality) => (sample = { at, value: undefined, quality }),
      confirm: () => {},
      values: [],
    }
    // the low bits tell how a value was made for the record, which is no part of how good it is (OPC 10000-11, 6.4.3)
    takeFor(this.target, value, (statusCode.value & withoutInfoBits) >>> 0, at, at, sink as SampleSink)
    return sample
  }
}

const withoutInfoBits = 0xffff0000

/** In a sentence of the journal. */
export const filledText = ({ tags, values, notKept, why }: Filled): string => {
  const filled = `${counted(values, 'value')} of ${counted(tags, 'tag')}`
  return notKept > 0 ? `${filled}; of ${counted(notKept, 'tag')} the server keeps no record (${why})` : filled
}
