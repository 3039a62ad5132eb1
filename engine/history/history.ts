import { randomUUID } from 'node:crypto'
import type { HistoryKeeping } from '#core/history/settings'
import type { Stage } from '#core/upkeep/disks'
import { counted } from '#core/text/counted'
import { ageText, wholeSeconds } from '#core/text/duration'
import { momentText } from '#core/text/moment'
import { bucketStart, tierMs } from '#core/history/bucket'
import { HistoryReader } from '#db/history/reader'
import type { ThingOf } from '#db/subjects'
import { earliestNow } from '#pacing/clock'
import { Rate } from '#pacing/rate'
import type { HistoryStatus } from '#shared/history'
import type { Periods } from '../bridges/periods'
import type { Recalling } from '../equipment/recalling'
import type { Applier } from '../configuration/site'
import type { ForceBook } from '../configuration/force'
import type { JournalWriter } from '../journal/journal'
import type { Handle, TagTable } from '../table/tagTable'
import type { RegisteredTag, TagRegister } from '../tags/tagRegister'
import { gapsIn, type Gappy } from './filling'
import { HistoryWriter } from './historyWriter'
import { OutageNotes } from './outageNotes'
import { KeptQueue } from '../disk/keptQueue'
import { OpenParcel, parcelPacking, type Parcel } from './parcel'
import { pastOf, type Past } from './past'
import { recallOf } from './recall'
import { Recorder } from './recorder'

/** A database; or whoever brings parcels there. */
export type HistoryStore = { folder: string | null } & (StoreHere | { carrier(queue: KeptQueue<Parcel>): ParcelCarrier })

interface StoreHere {
  databaseUrl: string
  /** Under which name it is noted how far it is stored; absent: that of the machine. */
  state?: string
  /** When another machine that recorded before was known to run; null: none did. */
  leaderAliveAt?: number | null
}

/** Brings parcels to where they belong, the oldest first. */
export interface ParcelCarrier {
  /** A parcel waits. */
  wake(): void
  keepAgain(): void
  /** The disk is short: what is stored of the past may give way. */
  giveWay?(lacking: (() => Promise<number>) | null): void
  close(): Promise<void>
  /** Why the last attempt failed; null: it did not. */
  readonly problem: string | null
  /** Parcels that are where they belong, or cannot be. */
  readonly parcels: number
}

interface Around {
  table: TagTable
  tags: TagRegister
  periods: Periods
  force: ForceBook
  journal: JournalWriter
  node: string
  /** Where what is recorded goes in the end, and where it waits until then; absent: nothing is recorded. */
  store?: HistoryStore
  /** Whether another machine records a tag. */
  isElsewhere?(tag: RegisteredTag): boolean
  keeping(): HistoryKeeping
  /** The clock of the site. */
  zone(): string
  /** Somebody else brought in what a rollup is made of. */
  madeLate(tagId: number, stretch: { from: number; to: number }): void
}

const takeEveryMs = 250
const aliveEveryMs = 2000
const dayMs = 86_400_000
const settleMs = 20_000
const settleLookMs = 25
/** So much waits for the database at most. */
const room = { disk: 4 * 1024 ** 3, memory: 48 * 1024 * 1024 }

/** Records what tags have: from the tag table to the disk at once, and from there into the database. */
export class History implements Applier<ThingOf['recording']> {
  private rules = new Map<number, ThingOf['recording']>()
  private parcel = new OpenParcel()
  private recorder: Recorder
  private queue: KeptQueue<Parcel>
  private writer: ParcelCarrier | null = null
  private required: Record<'here' | 'elsewhere', ReadonlySet<string>> = { here: new Set(), elsewhere: new Set() }
  private rate: Rate
  private timer: NodeJS.Timeout | null = null
  private reader: HistoryReader | null = null
  private aliveAt = 0
  private handed = 0
  private storing: Promise<void> = Promise.resolve()
  private diskProblem: string | null = null
  private disk: { stage: Stage; lacking: () => Promise<number> } = { stage: 'well', lacking: () => Promise.resolve(0) }
  /** Since when samples find no room. */
  private fullSince: number | null = null
  private lost = 0
  private toldDoubtful = 0
  readonly past: Past
  /** For rollups. */
  readonly recalling: Recalling
  /** For links that ask the far side for what was missed. */
  private gaps: Omit<Gappy, 'missingSince' | 'noteMissing'>
  private outages: OutageNotes | null = null

  constructor(private around: Around) {
    const { table, tags, periods, keeping, store } = around
    const oldest = () => earliestNow() - keeping().sample * dayMs
    const { isElsewhere } = around
    this.recorder = new Recorder({ table, tags, periods, parcel: this.parcel, oldest, ...(isElsewhere && { isElsewhere }) })
    this.queue = new KeptQueue(store?.folder ?? null, parcelPacking, room)
    this.rate = new Rate(() => this.recorder.samples)
    const settled = () => this.settled()
    this.past = pastOf(
      () => this.reader,
      (tagId) => this.recorder.isRecorded(tagId),
      around.zone,
      settled,
    )
    this.recalling = recallOf({ reader: () => this.reader, tags, recorder: this.recorder, parcel: this.parcel, settled, oldest })
    const tagOf = (handle: Handle) => tags.byHandle(handle)
    this.gaps = gapsIn({ past: this.past, recorder: this.recorder, tagOf, settled, waiting: () => this.queue.samples, oldest })
    if (store) void this.start(store)
  }

  set(rules: readonly ThingOf['recording'][]) {
    for (const rule of rules) {
      this.rules.set(rule.id, rule)
      this.around.force.settle('recording', rule.id)
    }
    this.recorder.setRules(this.rules.values())
  }

  removed(ids: readonly number[]) {
    for (const id of ids) this.rules.delete(id)
    this.recorder.setRules(this.rules.values())
  }

  tagsChanged(set: readonly RegisteredTag[], removed: readonly RegisteredTag[]) {
    this.recorder.tagsChanged(set, removed)
  }

  /** For a link that asks the far side for what was missed. */
  gapsOf(link: number): Gappy {
    return {
      ...this.gaps,
      missingSince: () => this.outages?.since(link) ?? Promise.resolve(null),
      noteMissing: (since) => this.outages?.note(link, since),
    }
  }

  /** These are recorded with every change, for what is worked out from them. */
  require(paths: ReadonlySet<string>, by: 'here' | 'elsewhere' = 'here') {
    this.required[by] = paths
    this.recorder.require(new Set([...this.required.here, ...this.required.elsewhere]))
  }

  keepingChanged() {
    this.writer?.keepAgain()
    this.giveWay()
  }

  /** How full the disk is. @param lacking how many bytes have to give way */
  diskIs(stage: Stage, lacking: () => Promise<number>) {
    this.disk = { stage, lacking }
    this.giveWay()
  }

  private giveWay() {
    const { stage, lacking } = this.disk
    const isShort = (stage === 'short' || stage === 'critical') && this.around.keeping().whenShort === 'drop'
    this.writer?.giveWay?.(isShort ? lacking : null)
  }

  status(now = Date.now()): HistoryStatus {
    const { queue, recorder, writer } = this
    const { oldestAt } = queue
    return {
      ...this.state(now, oldestAt === null ? 0 : now - oldestAt),
      tags: recorder.count,
      perSecond: this.rate.perSecond,
      waiting: queue.samples,
      waitingBytes: queue.bytes,
      oldestAt: writer?.problem ? oldestAt : null,
      lost: this.lost + recorder.lost,
      doubtful: recorder.doubtful,
    }
  }

  async close() {
    if (this.timer) clearInterval(this.timer)
    this.rate.close()
    const now = Date.now()
    await this.recorder.close(now)
    this.hand(now)
    await this.storing
    await this.writer?.close()
    await this.queue.isAlive(now).catch(() => {})
    await this.queue.close()
    await this.reader?.close().catch(() => {})
    await this.outages?.close()
  }

  private async start(store: HistoryStore) {
    const now = Date.now()
    const { journal, node, keeping, madeLate } = this.around
    const aliveUntil = await this.queue.open().catch((error: Error) => this.diskFailed(error))
    const before = 'databaseUrl' in store ? (store.leaderAliveAt ?? null) : null
    const until = before === null ? aliveUntil : Math.max(before, aliveUntil ?? before)
    // a moment ahead of a clock that was set back says nothing
    this.parcel.begin(until !== null && until > now ? null : until, now)
    this.parcel.reopen(bucketStart(now, tierMs.minute), now)
    this.handed = this.queue.count
    if ('databaseUrl' in store) {
      const { databaseUrl, state = node } = store
      this.reader = new HistoryReader(databaseUrl)
      this.outages = new OutageNotes(databaseUrl)
      this.writer = new HistoryWriter({ databaseUrl, node: state, queue: this.queue, journal, keeping, madeLate })
    } else this.writer = store.carrier(this.queue)
    this.timer = setInterval(() => this.take(Date.now()), takeEveryMs)
  }

  /** Resolves once all that came until now is in the database. */
  private async settled() {
    const now = Date.now()
    this.recorder.take(now)
    this.hand(now)
    const [upTo, end] = [this.handed, now + settleMs]
    while ((this.writer?.parcels ?? 0) < upTo) {
      if (Date.now() > end) throw new Error('the database does not take what is recorded')
      await new Promise((resolve) => setTimeout(resolve, settleLookMs))
    }
  }

  private take(now: number) {
    this.recorder.take(now)
    if (!this.parcel.isEmpty) this.hand(now)
    else if (now - this.aliveAt > aliveEveryMs) this.noteAlive(now)
    this.tellDoubtful()
  }

  /** Hands over what came; where there is no room it is lost, and from then on there is a gap. */
  private hand(now: number) {
    if (this.parcel.isEmpty) return
    if (!this.queue.hasRoom || this.disk.stage === 'critical') return this.lose(now)
    if (this.fullSince !== null) this.parcel.begin(this.fullSince, now)
    this.fullSince = null
    this.aliveAt = now
    this.handed++
    const parcel = this.parcel.take(randomUUID())
    this.storing = this.queue.add(parcel).then(
      () => void (this.diskProblem = null),
      (error: Error) => void this.diskFailed(error),
    )
    this.writer?.wake()
  }

  private lose(now: number) {
    if (this.fullSince === null && this.disk.stage !== 'critical')
      this.around.journal.trouble('History', 'No room is left for what is recorded while the database is away. It is lost from now on.')
    this.fullSince ??= now
    this.lost += this.parcel.take('').head.samples
  }

  private noteAlive(now: number) {
    this.aliveAt = now
    if (this.fullSince === null) this.queue.isAlive(now).catch(() => {})
  }

  private diskFailed(error: Error): null {
    if (this.diskProblem === null)
      this.around.journal.caution('History', `What is recorded waits in memory only until the database has it: ${error.message}`)
    this.diskProblem = error.message
    return null
  }

  /** Once a minute at most would still be often: once for each life and hundredfold. */
  private tellDoubtful() {
    const { doubtful, lastDoubtful } = this.recorder
    if (lastDoubtful === null || doubtful < this.toldDoubtful) return
    this.toldDoubtful = Math.max(1, doubtful) * 100
    const { path, time } = lastDoubtful
    this.around.journal.caution(
      'History',
      `“${path}” comes with the time ${momentText(time)}, which cannot be. It is recorded with the time at which it came.`,
    )
  }

  private state(now: number, behind: number): Pick<HistoryStatus, 'flow' | 'sentence'> {
    const { recorder, queue, writer } = this
    const tags = counted(recorder.count, 'tag')
    if (this.fullSince !== null)
      return {
        flow: 'broken',
        sentence: `${this.disk.stage === 'critical' ? 'The disk is full: nothing is recorded' : 'No room for what is recorded: it is lost'}, since ${wholeSeconds(now - this.fullSince)}.`,
      }
    if (writer?.problem)
      return {
        flow: 'late',
        sentence: `${counted(queue.samples, 'sample')} wait for the database, the oldest for ${wholeSeconds(behind)}.`,
      }
    if (recorder.count === 0) return { flow: 'off', sentence: 'Nothing is recorded.' }
    if (behind > 10_000) return { flow: 'late', sentence: `The database is behind: the oldest sample waits since ${ageText(behind)}.` }
    return { flow: 'flowing', sentence: `${tags} recorded, ${this.rate.perSecond.toLocaleString('en-GB')} samples a second.` }
  }
}
