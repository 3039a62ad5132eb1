import { readFormula, type Formula } from '../formulas/compile'
import { bringInput, frameOf, type Frame } from '../formulas/frame'
import { ordered } from '../formulas/graph'
import { asInput, resultAs } from '../formulas/result'
import { quality, isGood, severityOf } from '../tags/quality'
import type { ScalarType, TagValue } from '../tags/types'
import { gatherable, gathered } from './gather'
import { pathsIn, type MadeOf } from './made'

/** Works out over the past what properties would have been that are made of others: formulas, and what children have together. */

/** A property as far as it matters to what it is made of. */
export interface Workable {
  path: string
  type: ScalarType
  made: MadeOf
}

/** What a property had from a moment on. */
export interface Had {
  /** Undefined: nothing. */
  value: TagValue | undefined
  /** An OPC UA status code. */
  quality: number
}
export interface HadAt extends Had {
  /** Unix milliseconds. */
  at: number
}

/** What one property is worked out from, down to what was recorded. */
export interface Workings {
  /** In the order in which they are worked out; the property itself is the last. */
  steps: Workable[]
  /** The paths of what is read as it was recorded. */
  leaves: string[]
}

/** One that goes on from itself says another thing wherever it begins; rollups are made again on their own. */
const isWorkedOut = ({ made }: Workable): boolean => {
  if (made.kind === 'constant' || made.kind === 'gather') return true
  if (made.kind !== 'formula') return false
  const read = readFormula(made.formula)
  return read.ok && !read.formula.readsItself
}

/** @returns null: it is none that is worked out, or reads itself in the end */
export const workingsOf = (path: string, all: ReadonlyMap<string, Workable>): Workings | null => {
  const reads = new Map<string, string[]>()
  const leaves = new Set<string>()
  const look = (at: string) => {
    const property = all.get(at)
    if (!property || !isWorkedOut(property)) return void leaves.add(at)
    if (reads.has(at)) return
    const inputs = pathsIn(property.made)
    reads.set(at, inputs)
    inputs.forEach(look)
  }
  look(path)
  if (leaves.has(path) || leaves.size === 0) return null
  const { order, circular } = ordered(reads)
  return circular.length > 0 ? null : { steps: order.map((one) => all.get(one)!), leaves: [...leaves] }
}

/** Since when all is known that a property needs; ±Infinity: always, never. */
export const knownSince = ({ steps }: Workings, leafSince: (path: string) => number): number => {
  const since = new Map<string, number>()
  const of = (path: string) => since.get(path) ?? leafSince(path)
  for (const { path, made } of steps) {
    const all = pathsIn(made).map(of)
    // what children have together begins with the first of them
    const isEarliest = made.kind === 'gather' && all.length > 0
    since.set(path, isEarliest ? Math.min(...all) : Math.max(-Infinity, ...all))
  }
  return since.get(steps.at(-1)!.path)!
}

interface Step {
  slot: number
  inputs: number[]
  /** @returns null: not all that it needs is there yet */
  work(inputs: readonly number[]): Had | null
}

/** Takes what was recorded in the order of its times, and says what came of it. */
export class Replay {
  private slots = new Map<string, number>()
  private known: (Had | undefined)[] = []
  private changedAt: number[] = []
  private isChanged: boolean[] = []
  private steps: Step[]
  private result: number
  private isBegun = false

  constructor({ steps, leaves }: Workings) {
    for (const path of [...leaves, ...steps.map((one) => one.path)]) this.slots.set(path, this.slots.size)
    this.isChanged = [...this.slots.keys()].map(() => false)
    this.steps = steps.flatMap((one) => this.step(one) ?? [])
    this.result = this.slots.get(steps.at(-1)!.path)!
  }

  /** What one of the leaves had from then on. */
  take(path: string, { at, value, quality: code }: HadAt) {
    this.put(this.slots.get(path)!, { value, quality: code }, at)
  }

  /** Works out what came of all that was taken of one moment. @returns what is another thing from then on; null: it is as it was */
  settle(at: number): HadAt | null {
    const before = this.known[this.result]
    for (const { slot, inputs, work } of this.steps) {
      if (this.isBegun && !inputs.some((input) => this.isChanged[input])) continue
      const had = work(inputs)
      if (had) this.put(slot, had, at)
    }
    this.isBegun = true
    this.isChanged.fill(false)
    const now = this.known[this.result]
    return now && now !== before ? { ...now, at } : null
  }

  /** What the property has; null: not all is known yet. */
  get present(): Had | null {
    return this.known[this.result] ?? null
  }

  private put(slot: number, had: Had, at: number) {
    const before = this.known[slot]
    if (before && before.quality === had.quality && Object.is(before.value, had.value)) return
    this.known[slot] = had
    this.changedAt[slot] = at
    this.isChanged[slot] = true
  }

  private step({ path, type, made }: Workable): Step | null {
    const slot = this.slots.get(path)!
    const inputs = pathsIn(made).map((one) => this.slots.get(one)!)
    if (made.kind === 'gather') return { slot, inputs, work: (all) => this.gather(made.how, all) }
    if (made.kind === 'formula') {
      const read = readFormula(made.formula)
      if (!read.ok) return null
      const { formula } = read
      const frame = frameOf(formula.names.length)
      const named = formula.names.map((name) => this.slots.get(made.inputs[name]!)!)
      return { slot, inputs: named, work: (all) => this.formula(formula, frame, type, all) }
    }
    if (made.kind === 'constant') this.put(slot, constantHad(made.value), 0)
    return null
  }

  private gather(how: (MadeOf & { kind: 'gather' })['how'], inputs: readonly number[]): Had {
    const children = inputs.map((input) => {
      const had = this.known[input]
      return { value: gatherable(had?.value), quality: had?.quality ?? quality.BadNoData }
    })
    const { value, quality: code } = gathered(how, children)
    return { value: value ?? undefined, quality: code }
  }

  private formula(formula: Formula, frame: Frame, type: ScalarType, inputs: readonly number[]): Had | null {
    let code: number = quality.Good
    for (const input of inputs) {
      const had = this.known[input]
      if (!had) return null
      if (had.quality >>> 30 > code >>> 30) code = had.quality
    }
    inputs.forEach((input, i) => {
      const { value, quality: its } = this.known[input]!
      bringInput(frame, i, asInput(value), isGood(its), this.changedAt[input]!, formula.looksBack)
    })
    if (severityOf(code) === 'bad') return { value: undefined, quality: code }
    try {
      return { value: resultAs(formula.run(frame), type), quality: code }
    } catch {
      return { value: undefined, quality: quality.BadOutOfRange }
    }
  }
}

const constantHad = (value: boolean | number | string | null): Had =>
  value === null ? { value: undefined, quality: quality.BadConfigurationError } : { value, quality: quality.Good }
