import { fault, type Fault } from '#core/faults/catalogue'
import { readFormula, type Formula } from '#core/formulas/compile'
import { bringInput, frameOf, type Frame } from '#core/formulas/frame'
import { cycleOf, ordered, type Readers } from '#core/formulas/graph'
import { asInput, resultAs } from '#core/formulas/result'
import { FormulaProblem } from '#core/formulas/value'
import { isGood, quality, qualityText, severityOf } from '#core/tags/quality'
import { valueText } from '#core/text/number'
import { isFrom } from '#shared/sources/registry'
import type { FormulaSource } from '#shared/sources/formula'
import type { ValueOrigin } from '#shared/values'
import { nextTurn, Turns } from '#pacing/turns'
import type { WriteOutcome } from '../links/driver'
import type { Handle, TagTable } from '../table/tagTable'
import type { RegisteredTag, TagRegister } from '../tags/tagRegister'
import { notWritten } from './constantTags'
import type { RunningSource } from './source'

/** One formula at work. */
interface Calculation {
  tag: RegisteredTag & { source: FormulaSource }
  formula: Formula
  frame: Frame
  /** The paths of its inputs, in the order of the formula’s names, and their handles as far as they are there. */
  paths: string[]
  inputs: (Handle | undefined)[]
  /** Where it comes in the order in which formulas are worked out; −1: it reads itself in the end. */
  rank: number
  isDirty: boolean
  fault: Fault | null
}

/**
 * Tags that are worked out from others: once per batch of changes, each after those that it reads, however many
 * inputs changed.
 */
export class FormulaTags implements RunningSource {
  private calculations = new Map<Handle, Calculation>()
  private byPath = new Map<string, Calculation>()
  /** Who reads a path, whether a tag has it or not; and who reads a handle. */
  private readersOfPath = new Map<string, Set<Calculation>>()
  private readers: (Set<Calculation> | undefined)[] = []
  /** What this source wrote itself since the last flush: its readers came in the same pass. */
  private written = new Set<Handle>()
  private dirty: Calculation[] = []
  private isOrdered = true
  private isScheduled = false
  private isClosed = false
  private stopListening: () => void

  constructor(
    private table: TagTable,
    private tags: TagRegister,
  ) {
    this.stopListening = table.listen((handles) => this.heard(handles))
  }

  take(changed: readonly RegisteredTag[], removed: readonly Handle[]): Map<Handle, unknown> {
    const problems = new Map<Handle, unknown>()
    for (const handle of removed) this.remove(handle)
    for (const tag of changed) {
      if (!isFrom('formula', tag)) continue
      const read = readFormula(tag.source.formula)
      const before = this.calculations.get(tag.handle)
      this.remove(tag.handle)
      if (read.ok) this.add(tag, read.formula, before)
      else {
        this.table.degrade(tag.handle, quality.BadConfigurationError, Date.now())
        problems.set(tag.handle, new Error(read.problem))
      }
    }
    return problems
  }

  /** Tags came, changed or went: formulas that name their paths read others from now on. */
  tagsChanged(paths: Iterable<string>) {
    for (const path of paths) for (const reader of this.readersOfPath.get(path) ?? []) this.bind(reader)
  }

  counts() {
    let goodTags = 0
    for (const handle of this.calculations.keys()) if (isGood(this.table.quality[handle]!)) goodTags++
    return { tags: this.calculations.size, goodTags }
  }

  write(handle: Handle): Promise<WriteOutcome> {
    return Promise.resolve(notWritten(this.calculations.get(handle)?.tag.path ?? ''))
  }

  origin(handle: Handle): ValueOrigin | null {
    const calculation = this.calculations.get(handle)
    if (!calculation) return null
    const { tag, formula, paths, inputs } = calculation
    const { values, quality: codes, sourceTime } = this.table
    const input = (name: string, i: number) => {
      const of = inputs[i]
      const text =
        of === undefined ? 'not there' : `${valueText(values[of], this.tags.byHandle(of)?.passedOn)} · ${qualityText(codes[of]!)}`
      return {
        title: `${name} = ${paths[i]!}`,
        text,
        detail: of === undefined ? 'no tag has this path' : 'source time',
        at: of === undefined ? 0 : sourceTime[of]!,
      }
    }
    return {
      stages: [
        ...formula.names.map(input),
        {
          title: 'Formula',
          text: formula.text,
          detail: tag.source.quality === 'worst' ? 'as good as the worst of its inputs' : `quality: ${tag.source.quality}`,
        },
        {
          title: 'Passed on',
          text: `${valueText(values[handle], tag.type)} · ${qualityText(codes[handle]!)}`,
          detail: 'source time',
          at: sourceTime[handle]!,
        },
      ],
      ...{ readings: [], wordsFrom: '', goesTo: [], fault: calculation.fault },
    }
  }

  inputs(handle: Handle): readonly string[] {
    return this.calculations.get(handle)?.paths ?? []
  }

  close() {
    this.isClosed = true
    this.stopListening()
  }

  /** One that is worked out as before looks back at what it had, whatever else of its tag is another. */
  private add(tag: RegisteredTag & { source: FormulaSource }, formula: Formula, before: Calculation | undefined) {
    const paths = formula.names.map((name) => tag.source.inputs[name] ?? '')
    const calculation: Calculation = {
      ...{ tag, formula, paths, frame: frameOf(paths.length), inputs: [], rank: 0, isDirty: false, fault: null },
    }
    if (before?.formula.text === formula.text && before.paths.join('\n') === paths.join('\n'))
      Object.assign(calculation, { frame: before.frame, inputs: before.inputs })
    this.calculations.set(tag.handle, calculation)
    this.byPath.set(tag.path, calculation)
    for (const path of new Set(paths)) {
      const readers = this.readersOfPath.get(path) ?? new Set()
      this.readersOfPath.set(path, readers.add(calculation))
    }
    this.bind(calculation)
  }

  private remove(handle: Handle) {
    const calculation = this.calculations.get(handle)
    if (!calculation) return
    this.unbind(calculation)
    this.calculations.delete(handle)
    if (this.byPath.get(calculation.tag.path) === calculation) this.byPath.delete(calculation.tag.path)
    for (const path of calculation.paths) {
      const readers = this.readersOfPath.get(path)
      readers?.delete(calculation)
      if (readers?.size === 0) this.readersOfPath.delete(path)
    }
    this.isOrdered = false
  }

  /** What it had before its inputs were others says nothing any more. */
  private bind(calculation: Calculation) {
    const inputs = calculation.paths.map((path) => this.tags.byPath(path)?.handle)
    const isOther = inputs.some((input, i) => input !== calculation.inputs[i])
    if (isOther) calculation.frame = frameOf(inputs.length)
    this.unbind(calculation)
    calculation.inputs = inputs
    for (const input of inputs) if (input !== undefined) (this.readers[input] ??= new Set()).add(calculation)
    this.isOrdered = false
    // worked out once more for nothing, it would look back at itself
    if (isOther || this.table.values[calculation.tag.handle] === undefined) this.mark(calculation)
    this.schedule()
  }

  private unbind(calculation: Calculation) {
    for (const input of calculation.inputs) {
      if (input === undefined) continue
      this.readers[input]?.delete(calculation)
      if (this.readers[input]?.size === 0) this.readers[input] = undefined
    }
  }

  /** Within a flush: only noted. Formulas that another one made dirty come in the same pass. */
  private heard(handles: readonly Handle[]) {
    if (this.calculations.size === 0) return
    const { readers } = this
    for (const handle of handles) {
      const those = readers[handle]
      if (those && !this.written.has(handle)) for (const one of those) this.mark(one)
    }
    this.written.clear()
    if (this.dirty.length > 0) this.schedule()
  }

  private mark(calculation: Calculation) {
    if (calculation.isDirty) return
    calculation.isDirty = true
    this.dirty.push(calculation)
  }

  private schedule() {
    if (this.isScheduled || this.isClosed) return
    this.isScheduled = true
    void nextTurn().then(() => this.pass())
  }

  /** Works out what is dirty, rank by rank, until nothing is. */
  private async pass() {
    const turns = new Turns()
    this.order()
    while (this.dirty.length > 0 && !this.isClosed) {
      const lowest = this.takeLowest()
      for (const calculation of lowest) {
        if (turns.isOver) {
          this.table.flush()
          await turns.next()
          this.order()
        }
        calculation.isDirty = false
        if (this.calculations.get(calculation.tag.handle) === calculation) this.work(calculation)
      }
    }
    this.isScheduled = false
    this.table.flush()
    if (this.dirty.length > 0) this.schedule()
  }

  private takeLowest(): Calculation[] {
    let rank = Infinity
    for (const one of this.dirty) if (one.rank < rank) rank = one.rank
    const lowest: Calculation[] = []
    const others: Calculation[] = []
    for (const one of this.dirty) (one.rank === rank ? lowest : others).push(one)
    this.dirty = others
    return lowest
  }

  private order() {
    if (this.isOrdered) return
    this.isOrdered = true
    const reads = new Map([...this.byPath].map(([path, { paths }]) => [path, paths]))
    const { order, circular } = ordered(reads)
    for (const path of order) {
      const calculation = this.byPath.get(path)!
      calculation.rank = 1 + Math.max(-1, ...calculation.paths.map((input) => this.byPath.get(input)?.rank ?? -1))
    }
    for (const path of circular) {
      const calculation = this.byPath.get(path)!
      calculation.rank = -1
      calculation.fault = this.circularFault(calculation, reads)
      this.mark(calculation)
    }
  }

  /** Of one that only reads one of a circle, the circle is told all the same. */
  private circularFault({ tag, paths }: Calculation, reads: Readers): Fault {
    const own = cycleOf(tag.path, reads)
    if (own) return fault('formula.cycle', { path: tag.path, way: own })
    for (const input of paths) {
      const way = reads.has(input) ? cycleOf(input, reads) : null
      if (way) return fault('formula.cycle', { path: input, way })
    }
    return fault('formula.cycle', { path: tag.path, way: [] })
  }

  private work(calculation: Calculation) {
    const { tag, frame, formula } = calculation
    const { table } = this
    const now = Date.now()
    const state = this.stateOf(calculation)
    if (state.fault) return this.fail(calculation, state.code, state.fault, now)
    this.fill(calculation, now)
    if (severityOf(state.code) === 'bad') return this.fail(calculation, state.code, null, now)
    try {
      const result = formula.run(frame)
      const value = resultAs(result, tag.type)
      frame.own = result
      calculation.fault = null
      this.put(calculation, () => table.set(tag.handle, value, state.code, now, state.sourceTime))
    } catch (error) {
      const problem = error instanceof FormulaProblem ? error.message : (error as Error).message
      this.fail(calculation, quality.BadOutOfRange, fault('formula.failed', { path: tag.path, problem }), now)
    }
  }

  private fail(calculation: Calculation, code: number, why: Fault | null, now: number) {
    calculation.fault = why
    this.put(calculation, () => this.table.degrade(calculation.tag.handle, code, now))
  }

  /** Whoever reads it comes later in the same pass. */
  private put({ tag }: Calculation, write: () => void) {
    const before = this.table.changes
    write()
    if (this.table.changes === before) return
    this.written.add(tag.handle)
    for (const reader of this.readers[tag.handle] ?? []) if (reader.rank >= 0) this.mark(reader)
  }

  private stateOf({ tag, inputs, paths, formula, rank, fault: why }: Calculation): {
    code: number
    sourceTime: number
    fault: Fault | null
  } {
    if (rank < 0) return { code: quality.BadConfigurationError, sourceTime: 0, fault: why }
    const { table } = this
    const missing = inputs.indexOf(undefined)
    if (missing >= 0) {
      const problem = fault('formula.no-input', { path: tag.path, name: formula.names[missing]!, input: paths[missing]! })
      return { code: quality.BadConfigurationError, sourceTime: 0, fault: problem }
    }
    const from = tag.source.quality
    let code = from === 'best' && inputs.length > 0 ? quality.BadWaitingForInitialData : (quality.Good as number)
    let sourceTime = 0
    for (let i = 0; i < inputs.length; i++) {
      const input = inputs[i]!
      const its = table.quality[input]!
      sourceTime = Math.max(sourceTime, table.sourceTime[input]!)
      if (table.values[input] === undefined && from === 'worst')
        return { code: severityOf(its) === 'bad' ? its : quality.BadWaitingForInitialData, sourceTime, fault: null }
      if (from === 'worst' ? its >>> 30 > code >>> 30 : from === 'best' ? its >>> 30 < code >>> 30 : formula.names[i] === from) code = its
    }
    return { code, sourceTime: sourceTime || Date.now(), fault: null }
  }

  private fill({ frame, inputs, formula }: Calculation, now: number) {
    const { values, sourceTime, quality: codes } = this.table
    for (let i = 0; i < inputs.length; i++) {
      const input = inputs[i]!
      bringInput(frame, i, asInput(values[input]), isGood(codes[input]!), sourceTime[input] || now, formula.looksBack)
    }
  }
}
