import { fault, type Fault } from '#core/faults/catalogue'
import { memberAt, type Found } from '#core/bridges/member'
import type { InputValue, Occasion, RunFacts } from '#core/bridges/run'
import type { BridgeDraft, Input, Missing } from '#core/bridges/settings'
import { carriedOf } from '#core/bridges/tagValue'
import { quality, qualityText, severityOf } from '#core/tags/quality'
import type { Payload } from '#core/messages/payload'
import type { LinkRunner } from '../links/linkRunner'
import type { TagTable } from '../table/tagTable'
import type { TagRegister } from '../tags/tagRegister'
import { askersOf, missed, type Asker, type Taken } from './asked'

export type Gathered = { ok: true; inputs: InputValue[] } | { ok: false; fault: Fault; mayCome: boolean }
/** What was asked for before the others are looked at, by the place of the input. */
export type Fetched = ReadonlyMap<number, Taken>

interface Reader {
  name: string
  missing: Missing
  read(occasion: Occasion): Taken
  /** The last good one. */
  last: InputValue | null
}

interface Around {
  table: TagTable
  tags: TagRegister
  link(id: number): LinkRunner | undefined
  /** Only a trial: nothing may be asked that could change something. */
  isTrial?: boolean
}

const nothing: InputValue = { value: null, quality: quality.BadNoData, at: null, unit: '' }
const nothingFetched: Fetched = new Map()

/** The inputs of one bridge. */
export class Inputs {
  private readers: Reader[]
  private askers: Asker[]
  /** The longest that one of them may be waited for, ms; 0: none is. */
  readonly longestWait: number

  /** Throws where a statement cannot be read, which the bridge's problems tell before. */
  constructor(bridge: Pick<BridgeDraft, 'take' | 'lookUps'>, around: Around) {
    const { take } = bridge
    this.readers = take.map((input) => ({ name: input.name, missing: input.missing, read: readerOf(input, around), last: null }))
    this.askers = askersOf(bridge, around)
    this.longestWait = Math.max(0, ...take.map(({ missing }) => (missing.do === 'wait' ? missing.within : 0)))
  }

  /** Whether some are asked for somewhere else, so that a run has to wait for an answer. */
  get asks() {
    return this.askers.length > 0
  }

  /** Asks for what is somewhere else, each with what those before it have. Never rejects. */
  async fetch(run: RunFacts): Promise<Fetched> {
    const fetched = new Map<number, Taken>()
    for (const { index, ask } of this.askers) {
      const before = this.gatherFirst(index, run.occasion, 0, fetched)
      // without what it asks by there is nothing to ask
      if (!before.ok) return fetched
      fetched.set(index, await ask({ ...run, inputs: before.inputs }))
    }
    return fetched
  }

  /** What they have now; `waited`: for so long it has been tried already, ms. */
  gather(occasion: Occasion, waited = 0, fetched = nothingFetched): Gathered {
    return this.gatherFirst(this.readers.length, occasion, waited, fetched)
  }

  private gatherFirst(count: number, occasion: Occasion, waited: number, fetched: Fetched): Gathered {
    const inputs: InputValue[] = []
    for (let i = 0; i < count; i++) {
      const reader = this.readers[i]!
      const taken = fetched.get(i) ?? reader.read(occasion)
      if (taken.ok) inputs.push((reader.last = taken.value))
      else {
        const instead = insteadOf(reader, taken)
        if (instead === null) return this.without(reader, taken.problem, waited)
        inputs.push(instead)
      }
    }
    return { ok: true, inputs }
  }

  private without({ name, missing }: Reader, problem: string, waited: number): Gathered {
    const mayCome = missing.do === 'wait' && waited < missing.within
    return { ok: false, mayCome, fault: fault('bridge.no-input', { input: name, problem }) }
  }
}

const insteadOf = ({ missing, last }: Reader, taken: Taken & { ok: false }): InputValue | null => {
  if (missing.do === 'null') return { ...nothing, quality: taken.quality }
  if (missing.do === 'last' && last) return { ...last, quality: quality.UncertainLastUsableValue }
  return null
}

const readerOf = (input: Input, around: Around): Reader['read'] => {
  switch (input.kind) {
    case 'constant': {
      const value: InputValue = { value: input.value, quality: quality.Good, at: null, unit: '' }
      return () => ({ ok: true, value })
    }
    case 'member':
      return memberReader(memberAt(input.path, input.each))
    case 'query':
    case 'call':
      return () => missed('it was not asked for')
    case 'tag':
      return tagReader(input.path, around)
  }
}

const tagReader =
  (path: string, { table, tags }: Around): Reader['read'] =>
  () => {
    const tag = tags.byPath(path)
    if (!tag) return { ok: false, problem: `no tag has the path ${path}`, quality: quality.BadNodeIdUnknown }
    const { handle } = tag
    const code = table.quality[handle]!
    if (table.values[handle] === undefined || severityOf(code) === 'bad') return { ok: false, problem: qualityText(code), quality: code }
    return {
      ok: true,
      value: {
        value: carriedOf(table.values[handle], tag.passedOn),
        quality: code,
        at: table.sourceTime[handle]!,
        unit: tag.unit,
        names: tag.names,
      },
    }
  }

const memberReader =
  (find: (payload: Payload) => Found): Reader['read'] =>
  ({ payload, at }) => {
    if (!payload) return { ok: false, problem: 'it was set off by something else than a message', quality: quality.BadNoData }
    const found = find(payload)
    if (!found.ok) return { ok: false, problem: found.problem, quality: quality.BadNoData }
    return { ok: true, value: { value: found.value, quality: quality.Good, at, unit: '' } }
  }
