import { fault, type Fault } from '#core/faults/catalogue'
import type { Carried } from '#core/bridges/carried'
import { memberAt, type Found } from '#core/bridges/member'
import type { InputValue, Occasion } from '#core/bridges/run'
import type { Input, Missing } from '#core/bridges/settings'
import { carriedOf } from '#core/bridges/tagValue'
import { quality, qualityText, severityOf } from '#core/tags/quality'
import type { Payload } from '#core/mqtt/payload'
import type { TagTable } from '../table/tagTable'
import type { TagRegister } from '../tags/tagRegister'

/** What an input has now, or why it has nothing. */
type Taken = { ok: true; value: InputValue } | { ok: false; problem: string; quality: number }

export type Gathered = { ok: true; inputs: InputValue[] } | { ok: false; fault: Fault; mayCome: boolean }

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
}

const nothing: InputValue = { value: null, quality: quality.BadNoData, at: null, unit: '' }

/** The inputs of one bridge. */
export class Inputs {
  private readers: Reader[]
  /** The longest that one of them may be waited for, ms; 0: none is. */
  readonly longestWait: number

  constructor(inputs: readonly Input[], around: Around) {
    this.readers = inputs.map((input) => ({ name: input.name, missing: input.missing, read: readerOf(input, around), last: null }))
    this.longestWait = Math.max(0, ...inputs.map(({ missing }) => (missing.do === 'wait' ? missing.within : 0)))
  }

  /** What they have now; `waited`: for so long it has been tried already, ms. */
  gather(occasion: Occasion, waited = 0): Gathered {
    const inputs: InputValue[] = []
    for (const reader of this.readers) {
      const taken = reader.read(occasion)
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

const readerOf = (input: Input, { table, tags }: Around): Reader['read'] => {
  if (input.kind === 'constant') {
    const value: InputValue = { value: input.value, quality: quality.Good, at: null, unit: '' }
    return () => ({ ok: true, value })
  }
  if (input.kind === 'member') return memberReader(memberAt(input.path))
  return () => {
    const tag = tags.byPath(input.path)
    if (!tag) return { ok: false, problem: `no tag has the path ${input.path}`, quality: quality.BadNodeIdUnknown }
    const { handle } = tag
    const code = table.quality[handle]!
    if (table.values[handle] === undefined || severityOf(code) === 'bad') return { ok: false, problem: qualityText(code), quality: code }
    return {
      ok: true,
      value: { value: carriedOf(table.values[handle], tag.passedOn), quality: code, at: table.sourceTime[handle]!, unit: tag.unit },
    }
  }
}

const memberReader =
  (find: (payload: Payload) => Found): Reader['read'] =>
  ({ payload, at }) => {
    if (!payload) return { ok: false, problem: 'it was set off by something else than a message', quality: quality.BadNoData }
    const found = find(payload)
    if (!found.ok) return { ok: false, problem: found.problem, quality: quality.BadNoData }
    const value: Carried = found.value
    return { ok: true, value: { value, quality: quality.Good, at, unit: '' } }
  }
