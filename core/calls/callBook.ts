import { Meters } from '../statistics/meters'
import { Meter, type Measured } from '../statistics/meter'
import {
  callerKey,
  type Call,
  type Caller,
  type CallItem,
  type CallOutcome,
  type CountedCall,
  type HeldCall,
  type NumberedCaller,
} from './call'

/** So many calls are held, and about so many bytes. */
const mostCalls = 5000
const mostBytes = 16 * 1024 * 1024
/** Of one call so many items are listed. */
export const mostItems = 200
/** More clients are counted together. */
const mostClients = 500
const others: Caller = { name: 'others', from: '', as: '' }
/** Of so many items it is known how often each was asked for in vain. */
const mostVain = 2000

interface Kept extends HeldCall, CountedCall {
  n: number
  at: number
  client: Client
}

/** Somebody looked within this time: everything is held. */
const lookedAtMs = 10_000
/** While nobody looks, of calls that were answered well so many a second are held, and of others as many. */
const mostUnseen = 50

interface Client {
  caller: NumberedCaller
  key: string
  meter: Meter | null
  calls: number
  told: number
  slowest: SlowCall | null
}

export interface SlowCall {
  ms: number
  service: string
  n: number
  at: number
}

/** What one client asked, since the last reset. */
export interface ClientTotal {
  client: NumberedCaller
  calls: number
  /** What it was told without asking: notifications, messages. */
  told: number
  measured: Measured
  slowest: SlowCall | null
}

/** One item that a client asked for and could not have. */
export interface VainItem {
  client: NumberedCaller
  what: string
  /** What it was told. */
  why: string
  times: number
  /** When last, Unix milliseconds. */
  at: number
}

export interface CallFilter {
  /** Only those with a greater number. */
  after?: number | undefined
  /** Only those with a lesser number. */
  before?: number | undefined
  /** The number of a client. */
  client?: number | undefined
  /** In any of its words. */
  text?: string | undefined
  outcome?: CallOutcome | undefined
}

export interface CallPage {
  /** The newest first. */
  calls: Call[]
  /** The number of the last call of all. */
  last: number
  /** The number of the oldest that is held. */
  first: number
}

/** Who calls, as it is kept by whoever notes the calls of one connection or session: it is looked up once. */
export class CallSource {
  client: unknown = null
  generation = 0

  constructor(readonly caller: Caller) {}
}

/**
 * The last calls of the clients of one outlet, and the totals of each client. Calls are put into words when somebody looks;
 * noting one costs next to nothing.
 */
export class CallBook {
  private ring: (Kept | undefined)[] = []
  /** Places in the ring, those of calls that are held: from the first to before the second. */
  private begin = 0
  private end = 0
  /** The number of the last call, held or not. */
  private last = 0
  private lookedAt = 0
  private second = 0
  /** Held in this second: answered well, and otherwise. */
  private heldNow: [well: number, otherwise: number] = [0, 0]
  private generation = 1
  private bytes = 0
  private clients = new Map<string, Client>()
  private clientCount = 0
  private vain = new Map<string, VainItem>()
  /** Requests in vain for items beyond those that are told apart. */
  private vainOthers = 0
  readonly meters = new Meters()
  /** When counting began, Unix milliseconds. */
  since = Date.now()

  /** Counts a call. @returns whether it is to be held as well: while nobody looks, not each of very many is */
  counts(source: CallSource, { outcome, ms, isTold, code = '' }: CountedCall, now = Date.now()): boolean {
    const client = this.clientOf(source)
    const n = ++this.last
    if (isTold) client.told++
    else this.measure(client, outcome, ms, code)
    const isSlowest = !isTold && ms !== null && ms > (client.slowest?.ms ?? -1)
    if (isSlowest) client.slowest = { ms, service: '', n, at: now }
    return isSlowest || this.isToBeHeld(outcome === 'well', now)
  }

  /** Holds the call that was counted just now. */
  hold(source: CallSource, { outcome, ms, isTold }: CountedCall, call: HeldCall, now = Date.now()) {
    const client = this.clientOf(source)
    const { service, status, count, bytes, tell } = call
    this.keep({ n: this.last, at: now, client, outcome, ms, isTold, service, status, count, bytes, tell })
    if (client.slowest?.n === this.last) client.slowest.service = service
  }

  /** A client asked for something that it cannot have. */
  inVain(source: CallSource, what: string, why: string, now = Date.now()) {
    const client = this.clientOf(source)
    const key = `${client.key}\n${what}`
    const known = this.vain.get(key)
    if (known) Object.assign(known, { why, times: known.times + 1, at: now })
    else if (this.vain.size >= mostVain) this.vainOthers++
    else this.vain.set(key, { client: client.caller, what, why, times: 1, at: now })
  }

  /** The newest of those that fit. */
  page(filter: CallFilter, most: number, now = Date.now()): CallPage {
    this.lookedAt = now
    const calls: Call[] = []
    for (const call of this.newestFirst(filter)) {
      calls.push(call)
      if (calls.length >= most) break
    }
    return { calls, last: this.last, first: this.ring[this.begin % mostCalls]?.n ?? this.last + 1 }
  }

  private *newestFirst(filter: CallFilter): Iterable<Call> {
    const { after = 0, before = Infinity } = filter
    const words = (filter.text ?? '').toLowerCase().split(/\s+/).filter(Boolean)
    for (let place = this.end - 1; place >= this.begin; place--) {
      const kept = this.ring[place % mostCalls]!
      if (kept.n <= after) return
      if (kept.n >= before || (filter.client !== undefined && kept.client.caller.id !== filter.client)) continue
      if (filter.outcome && kept.outcome !== filter.outcome) continue
      const call = inWords(kept)
      if (words.length === 0 || holds(call, words)) yield call
    }
  }

  /** The most busy first. */
  totals(now: number): ClientTotal[] {
    const measured = new Map(this.meters.told(now).parts)
    return [...this.clients.values()]
      .map(({ caller, key, calls, told, slowest }) => ({
        ...{ client: caller, calls, told, slowest },
        measured: measured.get(key) ?? new Meter(this.since).told(now),
      }))
      .sort((a, b) => b.calls + b.told - a.calls - a.told)
  }

  /** What was asked for in vain, the most often first. */
  askedInVain(most: number): { items: VainItem[]; others: number } {
    const items = [...this.vain.values()].sort((a, b) => b.times - a.times || b.at - a.at)
    const unlisted = items.slice(most).reduce((total, { times }) => total + times, 0)
    return { items: items.slice(0, most).map((item) => ({ ...item })), others: unlisted + this.vainOthers }
  }

  /** Totals begin anew; calls that are held stay. */
  reset(now: number) {
    this.meters.reset(now)
    this.since = now
    this.vain.clear()
    this.vainOthers = 0
    this.clients.clear()
    this.generation++
  }

  private measure(client: Client, outcome: CallOutcome, ms: number | null, code: string) {
    client.calls++
    if (outcome !== 'well') this.meters.failed(client.key, code, ms)
    else if (ms !== null) this.meters.answeredBy(client.meter, ms)
  }

  private isToBeHeld(isWell: boolean, now: number): boolean {
    if (now - this.lookedAt < lookedAtMs) return true
    const second = Math.floor(now / 1000)
    if (second !== this.second) {
      this.second = second
      this.heldNow = [0, 0]
    }
    return this.heldNow[isWell ? 0 : 1]++ < mostUnseen
  }

  private clientOf(source: CallSource): Client {
    if (source.generation !== this.generation) {
      source.client = this.find(source.caller)
      source.generation = this.generation
    }
    return source.client as Client
  }

  private find(caller: Caller): Client {
    const key = callerKey(caller)
    const known = this.clients.get(key)
    if (known) return known
    if (this.clients.size >= mostClients && caller !== others) return this.find(others)
    const made: Client = {
      caller: { ...caller, id: ++this.clientCount },
      ...{ key, meter: this.meters.of(key), calls: 0, told: 0, slowest: null },
    }
    this.clients.set(key, made)
    return made
  }

  private keep(kept: Kept) {
    if (this.end - this.begin >= mostCalls) this.letGo()
    this.ring[this.end++ % mostCalls] = kept
    this.bytes += kept.bytes
    while (this.bytes > mostBytes && this.end - this.begin > 1) this.letGo()
  }

  private letGo() {
    const place = this.begin++ % mostCalls
    this.bytes -= this.ring[place]?.bytes ?? 0
    this.ring[place] = undefined
  }
}

const inWords = (kept: Kept): Call => {
  const { n, at, client, service, outcome, status, ms, isTold } = kept
  const items = told(kept)
  return { n, at, client: client.caller, service, outcome, status, ms, isTold, items, more: Math.max(0, kept.count - items.length) }
}

/** What cannot be put into words any more is left out. */
const told = (kept: HeldCall): CallItem[] => {
  try {
    return kept.tell(mostItems)
  } catch (error) {
    return [{ what: 'it could not be put into words', value: null, status: (error as Error).message, refused: false }]
  }
}

/** Whether all of these words stand somewhere in a call. */
export const holds = ({ client, service, status, items }: Call, words: readonly string[]): boolean =>
  words.every(
    (word) =>
      [client.name, client.from, client.as, service, status].some((text) => text.toLowerCase().includes(word)) ||
      items.some(({ what, value, status: ofItem }) => `${what} ${value ?? ''} ${ofItem}`.toLowerCase().includes(word)),
  )
