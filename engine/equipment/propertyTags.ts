import type { PropertySource } from '#shared/sources/property'
import { isFrom } from '#shared/sources/registry'
import type { Stretch } from '#core/equipment/windows'
import { quality, qualityText } from '#core/tags/quality'
import { valueText } from '#core/text/number'
import { nextTurn } from '#pacing/turns'
import type { ValueOrigin } from '#shared/values'
import type { WriteOutcome } from '../links/driver'
import { notWritten, type ConstantTags } from '../sources/constantTags'
import type { FormulaTags } from '../sources/formulaTags'
import type { RunningSource } from '../sources/source'
import type { Handle, TagTable } from '../table/tagTable'
import type { RegisteredTag, TagRegister } from '../tags/tagRegister'
import { GatherTag } from './gatherTag'
import { InputTag } from './inputTags'
import { Readers } from './readers'
import type { Recalling } from './recalling'
import { RollupTag } from './rollupTag'
import { SampleTap } from './sampleTap'
import type { PropertyWork } from './work'

interface Around {
  table: TagTable
  tags: TagRegister
  constants: ConstantTags
  formulas: FormulaTags
  recalling: Recalling
  /** Which tags rollups are of: those are recorded. */
  require(paths: ReadonlySet<string>): void
  zone(): string
}

type PropertyTag = RegisteredTag & { source: PropertySource }

const tickMs = 250
/** So many rollups ask at once for what was recorded. */
const mostAsking = 3

/** The properties of equipment: constants and formulas as any other, and what only equipment has. */
export class PropertyTags implements RunningSource {
  private known = new Map<Handle, { tag: PropertyTag; work: PropertyWork | null }>()
  private rollups = new Set<RollupTag>()
  /** Those that wait until they may ask for what was recorded. */
  private waiting = new Set<RollupTag>()
  private asking = 0
  private rolledPaths = new Map<Handle, string>()
  private gathers: Readers<GatherTag>
  private dirtyGathers = new Set<GatherTag>()
  private tap: SampleTap
  private timer: NodeJS.Timeout
  private stopListening: () => void

  constructor(private around: Around) {
    const { table, tags } = around
    this.tap = new SampleTap(table, tags)
    this.gathers = new Readers(tags)
    this.stopListening = table.listen((handles) => this.heard(handles))
    this.timer = setInterval(() => this.tick(Date.now()), tickMs)
    this.timer.unref()
  }

  take(changed: readonly RegisteredTag[], removed: readonly Handle[]): Map<Handle, unknown> {
    const problems = new Map<Handle, unknown>()
    for (const handle of removed) this.remove(handle)
    for (const tag of changed) {
      if (!isFrom('property', tag)) continue
      this.remove(tag.handle)
      for (const [handle, problem] of this.add(tag)) problems.set(handle, problem)
    }
    this.around.require(new Set(this.rolledPaths.values()))
    return problems
  }

  /** Tags came, changed or went: what is read by its path is another one from now on. */
  tagsChanged(paths: ReadonlySet<string>) {
    this.tap.tagsChanged(paths)
    for (const gather of this.gathers.moved(paths)) this.mark(gather)
  }

  counts() {
    let goodTags = 0
    for (const handle of this.known.keys()) if (this.around.table.quality[handle]! >>> 30 === 0) goodTags++
    return { tags: this.known.size, goodTags }
  }

  /** Inputs that no tag is bound to. */
  get unbound() {
    let count = 0
    for (const { tag } of this.known.values()) if (tag.source.made.kind === 'input' && tag.source.made.path === '') count++
    return count
  }

  write(handle: Handle): Promise<WriteOutcome> {
    return Promise.resolve(notWritten(this.known.get(handle)?.tag.path ?? ''))
  }

  origin(handle: Handle, brief?: boolean): ValueOrigin | null {
    const known = this.known.get(handle)
    if (!known) return null
    const { tag, work } = known
    const { made } = tag.source
    if (made.kind === 'formula') return this.around.formulas.origin(handle)
    if (made.kind === 'constant' && made.value !== null) return this.around.constants.origin(handle)
    const { values, quality: codes, sourceTime } = this.around.table
    const passedOn = {
      title: 'Passed on',
      text: `${valueText(values[handle], tag.type)} · ${qualityText(codes[handle]!)}`,
      detail: 'source time',
      at: sourceTime[handle]!,
    }
    const stages = brief
      ? []
      : (work?.stages() ?? [{ title: 'Constant', text: 'no value yet', detail: 'neither its class nor the equipment itself gives one' }])
    return { stages: [...stages, passedOn], readings: [], wordsFrom: '', goesTo: [], fault: work?.fault ?? null }
  }

  inputs(handle: Handle): readonly string[] {
    const { made } = this.known.get(handle)?.tag.source ?? {}
    switch (made?.kind) {
      case 'formula':
        return this.around.formulas.inputs(handle)
      case 'input':
        return made.path === '' ? [] : [made.path]
      case 'rollup':
        return [made.of]
      case 'gather':
        return made.of
      default:
        return []
    }
  }

  /** Somebody brought in what a rollup is made of. */
  makeAgain(tagId: number, stretch: Stretch) {
    const handle = this.around.tags.handleOf(tagId)
    const work = handle === undefined ? null : this.known.get(handle)?.work
    if (work instanceof RollupTag) work.makeAgain(stretch)
  }

  /** Windows begin and end by another clock. */
  zoneChanged() {
    const rolled = [...this.known.values()].filter(({ work }) => work instanceof RollupTag).map(({ tag }) => tag)
    this.take(rolled, [])
  }

  close() {
    clearInterval(this.timer)
    this.stopListening()
    for (const { work } of this.known.values()) work?.close()
    this.tap.close()
  }

  private add(tag: PropertyTag): Map<Handle, unknown> {
    const { made } = tag.source
    const { table, tags, constants, formulas, recalling, zone } = this.around
    const { tap } = this
    const none = new Map<Handle, unknown>()
    const keep = (work: PropertyWork | null) => void this.known.set(tag.handle, { tag, work })
    switch (made.kind) {
      case 'constant':
        keep(null)
        if (made.value !== null) return constants.take([{ ...tag, source: { kind: 'constant', value: made.value } }], [])
        table.degrade(tag.handle, quality.BadConfigurationError, Date.now())
        return none
      case 'formula':
        keep(null)
        return formulas.take([{ ...tag, source: { kind: 'formula', formula: made.formula, inputs: made.inputs, quality: 'worst' } }], [])
      case 'input':
        keep(new InputTag(tag, made, { table, tags, tap }))
        return none
      case 'rollup': {
        const rollup = new RollupTag(tag, made, { table, tap, recalling, zone })
        this.rollups.add(rollup)
        this.rolledPaths.set(tag.handle, made.of)
        keep(rollup)
        return none
      }
      case 'gather': {
        const gather = new GatherTag(tag, made, { table, tags })
        this.gathers.add(gather, made.of)
        this.mark(gather)
        keep(gather)
        return none
      }
    }
  }

  private remove(handle: Handle) {
    const known = this.known.get(handle)
    if (!known) return
    this.known.delete(handle)
    this.rolledPaths.delete(handle)
    const { work, tag } = known
    work?.close()
    if (work instanceof RollupTag) {
      this.rollups.delete(work)
      this.waiting.delete(work)
    }
    if (work instanceof GatherTag) {
      this.gathers.remove(work)
      this.dirtyGathers.delete(work)
    }
    if (tag.source.made.kind === 'formula') this.around.formulas.take([], [handle])
    if (tag.source.made.kind === 'constant') this.around.constants.take([], [handle])
  }

  private tick(now: number) {
    for (const rollup of this.rollups) {
      rollup.tick(now)
      if (rollup.hasToAsk) this.waiting.add(rollup)
    }
    this.around.table.flush()
    this.letAsk()
  }

  /** One after the other, so that nobody waits for ever because of many. */
  private letAsk() {
    for (const rollup of this.waiting) {
      if (this.asking >= mostAsking) return
      this.waiting.delete(rollup)
      if (!rollup.hasToAsk) continue
      this.asking++
      void rollup.ask().finally(() => {
        this.asking--
        this.around.table.flush()
        this.letAsk()
      })
    }
  }

  /** Within a flush: only noted. */
  private heard(handles: readonly Handle[]) {
    for (const handle of handles) for (const gather of this.gathers.of(handle) ?? []) this.mark(gather)
  }

  private mark(gather: GatherTag) {
    if (this.dirtyGathers.size === 0) void nextTurn().then(() => this.gather())
    this.dirtyGathers.add(gather)
  }

  private gather() {
    const now = Date.now()
    const dirty = [...this.dirtyGathers]
    this.dirtyGathers.clear()
    for (const one of dirty) one.work(now)
    this.around.table.flush()
  }
}
