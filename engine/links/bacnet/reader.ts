import { fault, type Fault } from '#core/faults/catalogue'
import { refText } from '#core/bacnet/address'
import { confirmed, mostBytes } from '#core/bacnet/apdu'
import type { AppValue } from '#core/bacnet/appValue'
import { abort, reject } from '#core/bacnet/codes'
import { stationText } from '#core/bacnet/frames'
import { hasFlags, planReads, refsOf, type ReadItem } from '#core/bacnet/planning'
import { prop } from '#core/bacnet/property'
import { decodeReadMultiple, encodeReadMultiple, type PropertyAnswer, type PropertyRef, type ReadAnswer } from '#core/bacnet/services'
import { statusFlagsOf, type StatusFlags } from '#core/bacnet/statusFlags'
import { quality } from '#core/tags/quality'
import { errorFault, isUnknownService, outcomeFault, qualityOf, readOne } from './asking'
import type { Located } from './directory'
import type { Lane } from './lane'
import type { Outcome } from './port'

/** What came of reading an item. `away`: nothing is known of it, for the device did not answer. */
export type Reading =
  | { kind: 'value'; values: AppValue[]; flags: StatusFlags | null; bytes: number; ms: number; at: number }
  | { kind: 'refused'; why: Fault; code: number }
  | { kind: 'away'; why: Fault }

export type Took<T> = (item: T, reading: Reading) => void

const headBytes = 12
const partsTaken = 60

/** Refusals of a request as a whole that less at a time would mend. */
const tooMuch = (outcome: Outcome) =>
  (outcome.kind === 'abort' &&
    ([abort.bufferOverflow, abort.noSegmentation, abort.outOfResources, abort.tooLong] as number[]).includes(outcome.reason)) ||
  (outcome.kind === 'reject' && ([reject.bufferOverflow, reject.tooManyArguments] as number[]).includes(outcome.reason))

/** Reads items of one device: many in a request, or one by one where it knows no better. What it does not take is learned. */
export class Reader {
  /** Whether it takes several properties in one request. */
  takesMany = true
  private objects: number
  private hadMany = false

  constructor(
    private lane: Lane,
    private settings: { most: number; flags: boolean },
  ) {
    this.objects = settings.most
  }

  adjust(settings: { most: number; flags: boolean }) {
    this.settings = settings
    this.objects = settings.most
  }

  /** The requests that fetch these items. */
  plan<T extends ReadItem>(items: readonly T[]): T[][] {
    if (!this.takesMany) return items.map((item) => [item])
    const { room = mostBytes, sendsParts = false } = this.lane.located ?? ({} as Partial<Located>)
    const one = Math.min(room, mostBytes) - headBytes
    return planReads(items, {
      objects: this.objects,
      requestRoom: one,
      answerRoom: sendsParts ? one * partsTaken : one,
      flags: this.settings.flags,
    })
  }

  /** Reads the items of one request; each has its own outcome. */
  async read<T extends ReadItem>(items: readonly T[], took: Took<T>): Promise<void> {
    if (!this.takesMany || (items.length === 1 && !this.wantsFlags(items[0]!))) return this.oneByOne(items, took)
    const refs = refsOf(items, this.settings.flags)
    const outcome = await this.lane.read(confirmed.readMultiple, encodeReadMultiple(refs))
    if (outcome.kind === 'done') return this.takeMany(outcome, items, took)
    if (isUnknownService(outcome)) {
      this.takesMany = false
      return this.oneByOne(items, took)
    }
    const isRefused = outcome.kind === 'error' || outcome.kind === 'reject' || outcome.kind === 'abort'
    if (isRefused) return items.length > 1 ? this.inHalves(items, outcome, took) : this.oneByOne(items, took)
    if (outcome.kind === 'silent' && !this.hadMany && items.length > 1) this.objects = Math.max(1, this.objects >> 1)
    for (const item of items) took(item, this.failed(outcome, item))
  }

  private wantsFlags({ ref }: ReadItem) {
    return this.settings.flags && hasFlags(ref)
  }

  /** A device that refuses a whole request for one bad part of it is asked until that part stands alone. */
  private async inHalves<T extends ReadItem>(items: readonly T[], outcome: Outcome, took: Took<T>) {
    if (tooMuch(outcome)) this.objects = Math.max(1, Math.min(this.objects, Math.ceil(items.length / 2)))
    const middle = Math.ceil(items.length / 2)
    await this.read(items.slice(0, middle), took)
    await this.read(items.slice(middle), took)
  }

  private takeMany<T extends ReadItem>(outcome: Outcome & { kind: 'done' }, items: readonly T[], took: Took<T>) {
    const answers = answersIn(outcome.content)
    if (answers instanceof Error) {
      for (const item of items) took(item, this.failed({ kind: 'malformed', problem: answers.message }, item))
      return
    }
    this.hadMany = true
    const find = finderIn(answers)
    for (const item of items) {
      const answer = find(item.ref)
      const flags = this.wantsFlags(item) ? find({ ...item.ref, property: prop.statusFlags }) : undefined
      took(item, this.readingOf(item, answer, flags, outcome))
    }
  }

  private readingOf(
    item: ReadItem,
    answer: PropertyAnswer | null | undefined,
    flags: PropertyAnswer | null | undefined,
    { ms, at }: { ms: number; at: number },
  ): Reading {
    if (!answer) return this.failed({ kind: 'malformed', problem: `the answer leaves out ${refText(item.ref)}` }, item)
    if (!answer.ok) return { kind: 'refused', why: errorFault(answer.error, refText(item.ref)), code: qualityOf(answer.error) }
    return { kind: 'value', values: answer.values, flags: flags?.ok ? statusFlagsOf(flags.values) : null, bytes: answer.bytes, ms, at }
  }

  private async oneByOne<T extends ReadItem>(items: readonly T[], took: Took<T>) {
    for (const item of items) {
      const { outcome, answer } = await this.single(item.ref)
      if (!answer) {
        took(item, this.failed(outcome, item))
        continue
      }
      const flags = answer.ok && this.wantsFlags(item) ? (await this.single({ ...item.ref, property: prop.statusFlags })).answer : null
      const timing = outcome.kind === 'done' ? outcome : { ms: 0, at: Date.now() }
      took(item, this.readingOf(item, answer, flags, timing))
    }
  }

  private single(ref: PropertyRef) {
    return readOne((service, content) => this.lane.read(service, content), ref)
  }

  private failed(outcome: Outcome, { ref }: ReadItem): Reading {
    const { located, instance, fault: laneFault } = this.lane
    if (!located) return { kind: 'away', why: laneFault ?? fault('bacnet.not-found', { device: instance, ways: '', ms: 0 }) }
    const why = outcomeFault(outcome, { device: String(instance), station: located.station, what: refText(ref) })!
    if (outcome.kind === 'reject' || outcome.kind === 'abort') return { kind: 'refused', why, code: quality.BadDeviceFailure }
    return { kind: 'away', why }
  }

  /** How it is asked, in words. */
  get wayText() {
    return this.takesMany ? `${this.objects} objects in a request at most` : 'one property after the other'
  }

  get stationText() {
    return this.lane.located ? stationText(this.lane.located.station) : ''
  }
}

const answersIn = (content: Buffer): ReadAnswer[] | Error => {
  try {
    return decodeReadMultiple(content)
  } catch (error) {
    return error as Error
  }
}

/** Answers come in the order in which they were asked for, from nearly all devices: each is looked for where the last one was. */
const finderIn = (answers: readonly ReadAnswer[]) => {
  let next = 0
  return ({ object, property, index }: PropertyRef): PropertyAnswer | undefined => {
    for (let i = 0; i < answers.length; i++) {
      const at = (next + i) % answers.length
      const { ref, answer } = answers[at]!
      if (ref.property !== property || ref.index !== index || ref.object.instance !== object.instance || ref.object.type !== object.type) continue // prettier-ignore
      next = at + 1
      return answer
    }
    return undefined
  }
}
