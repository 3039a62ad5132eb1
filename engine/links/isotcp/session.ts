import { fault, type Fault } from '#core/faults/catalogue'
import type { IsoTcpSettings } from '#core/isotcp/settings'
import { roomIn } from '#core/isotcp/pdu'
import { quality } from '#core/tags/quality'
import type { TagValue } from '#core/tags/types'
import { counted } from '#core/text/counted'
import { duration } from '#core/text/duration'
import type { CheckStep, LinkStatus } from '#shared/status'
import type { ValueOrigin } from '#shared/values'
import { deliver } from '../../table/deliver'
import type { Handle } from '../../table/tagTable'
import type { LinkContext, LinkSession, Point, WriteOutcome } from '../driver'
import { WriteQueue } from '../writeQueue'
import { checkConnected } from './check'
import { originOf } from './origin'
import type { IsoPolled } from './pieceBlock'
import { isSamePoint, isSameSpot, polledPoint } from './polled'
import { Poller, readCall } from './poller'
import { Pool } from './pool'
import { prepareWrite, writeCall, writeFailure } from './writing'

const mostRefusedShown = 20
const usualSize = 240

/** A link to a controller at work: connections that share one queue, and a poller that keeps it filled. */
export class IsoTcpSession implements LinkSession<IsoTcpSettings> {
  private settings: IsoTcpSettings
  private pool: Pool
  private poller: Poller
  private points = new Map<Handle, Point>()
  private writes: WriteQueue
  private isLossTold = false

  constructor(private context: Omit<LinkContext<IsoTcpSettings>, 'security'>) {
    const { settings, name, table, journal, meters } = context
    this.settings = settings
    this.writes = new WriteQueue(settings.writes)
    this.poller = new Poller({ link: name, table, journal, meters }, settings, () => this.pool)
    this.pool = this.openPool()
  }

  update(settings: IsoTcpSettings) {
    const before = this.settings
    this.settings = settings
    this.writes.adjust(settings.writes)
    if (isElsewhere(before, settings)) this.reopen(() => this.poller.forget())
    else if (needsReopening(before, settings)) this.reopen(() => this.poller.unsettle())
    else this.pool.adjust(settings)
    this.poller.adjust(settings)
    if (before.order !== settings.order || before.interval !== settings.interval) this.setPoints([...this.points.values()], [])
  }

  setPoints(changed: readonly Point[], removed: readonly Handle[]) {
    for (const handle of removed) this.points.delete(handle)
    const [placed, gone] = [[] as IsoPolled[], [...removed]]
    for (const point of changed) {
      this.points.set(point.handle, point)
      const [was, is] = [this.poller.pointOf(point.handle), polledPoint(point, this.settings)]
      if (was && is && !isSameSpot(was, is)) this.context.table.renew(point.handle, Date.now())
      if (was && is && isSamePoint(was, is)) this.poller.blockFor(point.handle)?.invalidate()
      else if (is) placed.push(is)
      else {
        gone.push(point.handle)
        this.context.table.degrade(point.handle, quality.BadConfigurationError, Date.now())
      }
    }
    this.poller.setPoints(placed, gone)
  }

  async write(handle: Handle, value: TagValue): Promise<WriteOutcome> {
    const { name } = this.context
    const [polled, point] = [this.poller.pointOf(handle), this.points.get(handle)]
    if (!polled || !point) return { ok: false, quality: quality.BadNotConnected, fault: fault('link.off', { name }) }
    if (point.access !== 'readwrite')
      return { ok: false, quality: quality.BadNotWritable, fault: fault('write.not-writable', { path: point.path }) }
    const prepared = prepareWrite(polled, value, this.pool.size ?? usualSize)
    if (!prepared.ok) return prepared.outcome
    return this.writes.push(handle, point.path, async ({ until }) => {
      for (const part of prepared.parts) {
        const outcome = await this.pool.write(writeCall(part), until)
        const failure = writeFailure(polled, outcome, { settings: this.settings, poolFault: this.pool.fault, link: name })
        if (failure) return failure
      }
      await this.readBack(polled)
      return { ok: true }
    })
  }

  /** What the controller holds now, which need not be what was written. */
  private async readBack(point: IsoPolled) {
    this.poller.blockFor(point.handle)?.invalidate()
    const { row, offset, count } = point
    if (count * row.width > roomIn(this.pool.size ?? usualSize).read) return
    const piece = { area: row.area, block: row.block, offset, bit: null, count }
    const outcome = await this.pool.write(readCall([piece]), Infinity)
    const answer = outcome.kind === 'done' ? outcome.value[0]! : null
    if (outcome.kind !== 'done' || !answer?.ok || this.poller.pointOf(point.handle) !== point) return
    this.poller.blockFor(point.handle)?.patch(point, answer.data)
    const { table } = this.context
    deliver(table, point, point.odd, point.decode(answer.data, 0), quality.Good, outcome.at, outcome.at)
    table.flush()
  }

  origin(handle: Handle): ValueOrigin | null {
    const point = this.poller.pointOf(handle)
    return point ? originOf(point, this.poller.blockFor(handle), this.context.table) : null
  }

  experience() {
    return { '': this.poller.experience() }
  }

  findings() {
    return this.poller.findings()
  }

  nextTry() {
    return this.pool.nextTry
  }

  tryNow() {
    this.pool.tryNow()
  }

  status(): Omit<LinkStatus, 'id' | 'tags' | 'goodTags'> {
    const { health } = this.poller
    const refused = this.poller.allBlocks().flatMap((block) => block.refused())
    const counts = { requests: health.requests, failures: health.failures, connections: this.pool.open }
    if (this.pool.open === 0) {
      const why = this.pool.fault
      return { ...counts, flow: why ? 'broken' : 'late', sentence: why?.what ?? 'Connecting', fault: why, answerMs: null }
    }
    const shown = refused.length > 0 ? { refused: refused.slice(0, mostRefusedShown) } : {}
    return { ...counts, ...shown, answerMs: health.answerMs, ...this.stateOf(refused.length) }
  }

  private stateOf(refused: number): Pick<LinkStatus, 'flow' | 'sentence' | 'fault'> {
    const { health } = this.poller
    const rounds = this.poller.roundsInOrder()
    if (health.silentInARow > 0) return { flow: 'late', sentence: health.lastFault!.what, fault: health.lastFault }
    if (health.requests === 0)
      return { flow: 'late', sentence: rounds.length > 0 ? 'Waiting for the first answer' : 'Connected, no tags yet', fault: null }
    const slow = rounds.find(({ measuredMs, interval }) => measuredMs !== null && measuredMs > interval)
    if (slow)
      return { flow: 'late', sentence: `A round takes ${duration(slow.measuredMs!)}, its tags ask for every ${duration(slow.interval)}`, fault: null } // prettier-ignore
    const steady = rounds
      .slice(0, 2)
      .map(
        ({ measuredMs, interval, requests }) =>
          `Round ${measuredMs === null ? '—' : duration(measuredMs)} of ${duration(interval)} · ${counted(requests.length, 'request')}`,
      )
    const granted = `${counted(this.pool.open, 'connection')} of ${this.pool.size} bytes, ${this.pool.atOnce} under way`
    const refusals = refused > 0 ? [`the controller refuses ${counted(refused, 'tag')}`] : []
    return { flow: 'flowing', sentence: [steady.join(', '), granted, ...refusals].join(' · '), fault: null }
  }

  /** The link as it is, over the connection that it holds; null while it holds none. */
  check(): AsyncGenerator<CheckStep> | null {
    if (this.pool.open === 0) return null
    const places = [...new Map(this.poller.allBlocks().map((block) => [block.piece.row.key, block])).values()]
    return checkConnected(
      this.settings,
      { size: this.pool.size ?? usualSize, parallel: this.pool.atOnce, connections: this.pool.open },
      places.map(({ piece }) => ({ area: piece.row.area, block: piece.row.block, offset: piece.offset, bit: null, count: 1 })),
      (call) => this.pool.read(call),
    )
  }

  close(): Promise<void> {
    this.poller.close()
    this.pool.close()
    const now = Date.now()
    for (const handle of this.points.keys()) this.context.table.degrade(handle, quality.BadOutOfService, now)
    this.context.table.flush()
    return Promise.resolve()
  }

  private openPool(): Pool {
    return new Pool(
      this.settings,
      {
        opened: () => this.opened(),
        closed: (why) => this.closed(why),
        resized: () => this.poller.replanSoon(),
        limited: (connections, why) =>
          this.context.journal.caution(
            this.context.name,
            `The controller takes no more than ${counted(connections, 'connection')} of ours.`,
            why,
          ),
      },
      this.context.wire,
    )
  }

  private reopen(then: () => void) {
    this.pool.close()
    then()
    this.pool = this.openPool()
  }

  private opened() {
    if (this.isLossTold) this.context.journal.note(this.context.name, 'Connected again.')
    this.isLossTold = false
    this.poller.wake()
  }

  private closed(why: Fault) {
    if (!this.isLossTold) this.context.journal.caution(this.context.name, why.what, why)
    this.isLossTold = true
    this.poller.disconnected(why)
  }
}

const isElsewhere = (a: IsoTcpSettings, b: IsoTcpSettings) =>
  a.host !== b.host || a.port !== b.port || JSON.stringify(a.way) !== JSON.stringify(b.way)

const needsReopening = (a: IsoTcpSettings, b: IsoTcpSettings) =>
  a.localAddress !== b.localAddress ||
  a.requests.connections !== b.requests.connections ||
  a.requests.size !== b.requests.size ||
  a.requests.parallel !== b.requests.parallel
