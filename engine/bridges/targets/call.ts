import { randomUUID } from 'node:crypto'
import { z } from 'zod'
import { fault, isFault } from '#core/faults/catalogue'
import type { Shaped } from '#core/bridges/parcel'
import type { Destination } from '#core/bridges/settings'
import { requestOf } from '#core/http/operation'
import { jsonOf, textOf, type Carried } from '#core/messages/carried'
import { faultContract } from '#shared/faults'
import type { CallTaker, Verdict, WebAnswer } from '../../links/receiving'
import { anything, thrown, type Handed, type Marks, type Surroundings, type Target } from './target'

type Call = Extract<Destination, { kind: 'call' }>

/** What became of the first records of a batch, so that the next attempt goes on behind them, with the same keys. */
const marked = z.object({ of: z.string(), keys: z.string(), verdicts: z.array(faultContract.nullable()) })
type Marked = z.output<typeof marked>

/** A conflict that the far side has with a call that it is still at work on. */
const conflict = 409

/**
 * An operation of a web API as a destination: each record is a call, one after the other. A call of which no answer was heard is
 * made again under the same key, so that the far side knows it again.
 */
export class CallTarget implements Target {
  /** Of records that lie in memory: the key of each, and what became of it. */
  private inMemory = new WeakMap<Shaped, { key: string; verdict?: Verdict }>()
  /** The key of a call that was begun, and of which no answer was heard; they go one by one. */
  private unheard: string | null = null

  constructor(
    private around: Surroundings,
    private destination: Call,
  ) {}

  async deliver(handed: Handed, marks: Marks): Promise<Verdict[]> {
    const api = this.api()
    return handed.key === '' ? this.fromMemory(handed, api) : this.fromDisk(handed, api, marks)
  }

  types() {
    return Promise.resolve(this.destination.fields.map(() => anything))
  }

  preview({ fields, records }: Handed): Promise<string[]> {
    const operation = this.api().operation(this.destination.operation)
    if (!operation) return Promise.resolve([])
    return Promise.resolve(records.map(({ values }) => requestText(operation, givenBy(fields, values))))
  }

  private async fromMemory({ fields, records }: Handed, api: CallTaker): Promise<Verdict[]> {
    const verdicts: Verdict[] = []
    for (const record of records) {
      const known = this.inMemory.get(record) ?? { key: randomUUID() }
      this.inMemory.set(record, known)
      if (known.verdict === undefined) known.verdict = await this.send(api, fields, record, known.key)
      verdicts.push(known.verdict)
    }
    return verdicts
  }

  private async fromDisk({ fields, records, key }: Handed, api: CallTaker, marks: Marks): Promise<Verdict[]> {
    const { keys, verdicts } = await this.begun(key, marks)
    for (let i = verdicts.length; i < records.length; i++) {
      verdicts.push(await this.send(api, fields, records[i]!, `${keys}-${i}`))
      if (i < records.length - 1) await marks.set(JSON.stringify({ of: key, keys, verdicts }))
    }
    return verdicts
  }

  /** What the attempt before came to; keys are on the disk before anything goes out under them. */
  private async begun(of: string, marks: Marks): Promise<Marked> {
    const text = await marks.get()
    const read = text === undefined ? null : marked.safeParse(JSON.parse(text))
    if (read?.success && read.data.of === of) {
      this.unheard = `${read.data.keys}-${read.data.verdicts.length}`
      return read.data
    }
    const fresh = { of, keys: randomUUID(), verdicts: [] }
    await marks.set(JSON.stringify(fresh))
    return fresh
  }

  private async send(api: CallTaker, fields: readonly string[], { values }: Shaped, key: string): Promise<Verdict> {
    const { operation, keyHeader } = this.destination
    const wasBegun = this.unheard === key
    this.unheard = key
    const headers = keyHeader === '' ? {} : { [keyHeader]: key }
    const answer = await api.call({ operation, given: givenBy(fields, values), headers })
    // it was heard of now, unless the far side is still busy with it
    if (wasBegun && isConflict(answer)) throw thrown(answer.why)
    this.unheard = null
    return answer.ok ? null : answer.why
  }

  private api(): CallTaker {
    const { linkId, operation } = this.destination
    const link = this.around.link(linkId)
    if (!link) throw thrown(fault('entry.gone', { thing: 'link', id: linkId }))
    const receiver = link.receiver()
    if (isFault(receiver)) throw thrown(receiver)
    if (receiver.takes !== 'call') throw thrown(fault('bridge.no-receiver', { link: link.name, what: 'calls' }))
    // it may come back: what is kept waits for it
    if (!receiver.operation(operation)) throw thrown(fault('http.call', { call: operation, problem: 'there is no such operation' }))
    return receiver
  }
}

const isConflict = (answer: WebAnswer): answer is WebAnswer & { ok: false } => !answer.ok && answer.status === conflict

const givenBy = (fields: readonly string[], values: readonly Carried[]): Record<string, Carried> =>
  Object.fromEntries(fields.map((name, i) => [name, values[i] ?? null]))

const requestText = (operation: Parameters<typeof requestOf>[0], given: Record<string, Carried>): string => {
  try {
    const { method, target, body } = requestOf(operation, given)
    return `${method} ${target || '/'}${body === null ? '' : `  ${body}`}`
  } catch (error) {
    const shown = Object.entries(given).map(([name, value]) => `${name} ${typeof value === 'object' ? jsonOf(value) : textOf(value)}`)
    return `${(error as Error).message} (${shown.join(', ')})`
  }
}
