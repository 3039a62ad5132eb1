import { fault, type Fault } from '#core/faults/catalogue'
import { quality } from '#core/tags/quality'
import { dialectText, type SqlSettings } from '#core/sql/settings'
import { Backoff } from '#pacing/backoff'
import type { LinkStatus } from '#shared/status'
import type { ValueOrigin } from '#shared/values'
import { openedSecret } from '../../trust/openedSecret'
import type { LinkContext, LinkSession, PointFinding, WriteOutcome } from '../driver'
import type { Receiver } from '../receiving'
import { Connections } from './database'
import { sqlFault } from './errors'
import { greeting, Tables } from './rowStore'

/** So often it is asked whether it is there, while nothing else goes over the link. */
const lookMs = 10_000

/** A link to a database at work: it knows whether the database is there, and bridges write rows through it. */
export class SqlLinkSession implements LinkSession<SqlSettings> {
  private settings: SqlSettings
  private connections: Connections
  private tables: Tables
  private state: { flow: 'flowing' | 'late' | 'broken'; sentence: string; fault: Fault | null; ms: number | null } = {
    ...{ flow: 'late', sentence: 'Connecting', fault: null, ms: null },
  }
  private counts = { requests: 0, failures: 0 }
  private interrupt: () => void = () => {}
  private backoff: Backoff
  private closed = false
  private running: Promise<void>

  constructor(private context: LinkContext<SqlSettings>) {
    this.settings = context.settings
    this.backoff = backoffOf(context.settings)
    ;[this.connections, this.tables] = this.open()
    this.running = this.run()
  }

  update(settings: SqlSettings) {
    this.settings = settings
    this.backoff = backoffOf(settings)
    const before = this.connections
    ;[this.connections, this.tables] = this.open()
    void before.close()
    this.state = { flow: 'late', sentence: 'Connecting', fault: null, ms: null }
    this.interrupt()
  }

  setPoints() {
    // a database has none
  }

  write(): Promise<WriteOutcome> {
    return Promise.resolve({ ok: false, quality: quality.BadNotSupported, fault: fault('link.off', { name: this.context.name }) })
  }

  origin(): ValueOrigin | null {
    return null
  }

  findings(): PointFinding[] {
    return []
  }

  receiver(): Receiver {
    return this.tables
  }

  nextTry() {
    return this.backoff.nextTry
  }

  tryNow() {
    this.interrupt()
  }

  status(): Omit<LinkStatus, 'id' | 'tags' | 'goodTags'> {
    const { flow, sentence, fault: why, ms } = this.state
    return { flow, sentence, fault: why, answerMs: ms, ...this.counts, connections: flow === 'flowing' ? 1 : 0 }
  }

  async close() {
    this.closed = true
    this.interrupt()
    await this.connections.close()
    await this.running
  }

  private open(): [Connections, Tables] {
    const { settings, context } = this
    const connections = new Connections(settings, openedSecret(settings.password, context.security.seal), context.wire)
    const tables = new Tables({ settings, name: context.name, connections, broken: (why) => this.broke(connections, why) })
    return [connections, tables]
  }

  private async run() {
    while (!this.closed) {
      const isThere = await this.look()
      if (this.closed) return
      if (isThere) this.backoff.reset()
      await this.pause(isThere ? lookMs : this.backoff.next())
    }
  }

  private async look(): Promise<boolean> {
    const { connections, settings } = this
    const began = performance.now()
    this.counts.requests++
    try {
      const version = await greeting(connections, settings)
      if (connections !== this.connections) return false
      if (this.state.fault) this.context.journal.note(this.context.name, 'Connected.')
      this.context.meters.answered(null, performance.now() - began)
      const sentence = `Connected to ${dialectText[settings.dialect]} ${version.split(' ')[0]!}${settings.readOnly ? ', read only' : ''}`
      this.state = { flow: 'flowing', sentence, fault: null, ms: performance.now() - began }
      return true
    } catch (error) {
      if (connections === this.connections && !this.closed) this.broke(connections, sqlFault(error as Error, settings))
      return false
    }
  }

  private broke(connections: Connections, why: Fault) {
    if (connections !== this.connections) return
    this.counts.failures++
    this.context.meters.failed(null, why.code, null)
    connections.drop()
    if (this.state.fault?.code !== why.code) this.context.journal.caution(this.context.name, why.what, why)
    const wasThere = this.state.fault === null && this.state.flow === 'flowing'
    this.state = { flow: 'broken', sentence: why.what, fault: why, ms: null }
    if (wasThere) this.interrupt()
  }

  private pause(ms: number): Promise<void> {
    return new Promise((resolve) => {
      const timer = setTimeout(resolve, ms)
      this.interrupt = () => {
        clearTimeout(timer)
        resolve()
      }
    })
  }
}

const backoffOf = ({ patience }: SqlSettings) => new Backoff(patience.retryFirst, patience.retryMost)
