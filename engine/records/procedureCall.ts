import { fault } from '#core/faults/catalogue'
import type { Carried } from '#core/messages/carried'
import { carriedFor, setColumnOf, type SetColumn } from '#core/records/columns'
import type { RecordItem, SetShape } from '#core/records/items'
import type { ProcedureSettings } from '#core/records/settings'
import { quality } from '#core/tags/quality'
import { toRaw } from '#core/tags/scaling'
import type { TagValue } from '#core/tags/types'
import type { Routine } from '../links/receiving'
import { Columns, valuesOf } from './rowsRead'
import { numberedTo, padded } from './numbered'
import { thrown, type SetGround, type SetWork } from './work'

/** A procedure or function: what goes into it are tags to be written, and what comes out of it are tags. */
export class ProcedureCall implements SetWork {
  private columns: Columns
  private routine: Routine | null = null
  private parameters: SetColumn[] = []
  private given = new Map<string, TagValue>()
  private phase: 'waiting' | 'running' | 'done' | 'old' | 'failed' = 'waiting'

  constructor(private ground: SetGround<ProcedureSettings>) {
    this.columns = new Columns({ chosen: [], key: '', nulls: ground.set.nulls })
    if (ground.remembered?.of === this.of) for (const [name, value] of ground.remembered.given ?? []) this.given.set(name, value)
  }

  /** What there is to write; nothing runs by being looked at. */
  async read() {
    const { how } = this.ground.set
    const store = this.ground.store()
    const routine = await store.routine({ schema: how.schema, table: how.routine })
    const isOther = JSON.stringify(routine) !== JSON.stringify(this.routine)
    this.routine = routine
    if (isOther) {
      this.parameters = routine.parameters.filter(({ mode }) => mode !== 'out').map((one) => setColumnOf(one, store.dialect))
      for (const parameter of this.parameters) this.startWith(parameter)
    }
    // while the link was away nobody knew whether that still holds
    if (!this.ground.isWell()) this.grewOld()
    this.ground.board.tell({ run: false, ...(this.phase === 'waiting' ? { state: 'waiting for the first run', error: '' } : {}) })
  }

  async write(item: RecordItem, value: TagValue) {
    if (item.part === 'run') return value === true ? this.run() : undefined
    if (item.part !== 'parameter') throw thrown(fault('records.not-written', { what: item.column }))
    this.given.set(item.column, value)
    this.ground.board.setParameter(item.column, value)
    if (this.ground.set.how.atOnce && this.parameters.every(({ name }) => this.given.has(name))) return this.run()
    this.grewOld()
  }

  remembers() {
    return { of: this.of, given: this.given }
  }

  private get of() {
    const { linkId, how } = this.ground.set
    return JSON.stringify([linkId, how.kind, how.schema, how.routine])
  }

  shape(): SetShape | null {
    if (!this.routine) return null
    const { rows } = this.ground.set.how
    const shown = this.columns.last?.shown ?? null
    return { columns: shown, rows: rows === 1 ? null : numberedTo(rows), parameters: this.parameters, key: null }
  }

  sentence() {
    const texts = {
      ...{ waiting: 'waiting for the first run', running: 'running', done: 'done', failed: 'the last run failed' },
      old: 'what the last run gave may hold no longer',
    }
    return texts[this.phase]
  }

  private async run() {
    const { how } = this.ground.set
    const { board } = this.ground
    const routine = this.routine ?? (await this.read(), this.routine!)
    const given = this.carried()
    this.phase = 'running'
    board.tell({ state: 'running', run: true })
    try {
      const store = this.ground.store()
      const asked = await store.callRoutine(routine, given, how.rows)
      const columns = this.columns.of(asked, store.dialect)
      const rows = asked.rows.map((row) => valuesOf(columns, row))
      this.phase = 'done'
      const labels = how.rows === 1 ? null : numberedTo(how.rows)
      const image = { columns: columns.shown, labels, rows: labels ? padded(rows, how.rows, columns.shown.length) : rows.slice(0, 1) }
      board.show(image, { run: false, state: 'done', error: '', ...(labels ? { count: rows.length } : {}) }, true)
    } catch (error) {
      this.phase = 'failed'
      board.doubt(quality.BadNoData, { run: false, state: 'failed' })
      throw error
    }
  }

  private carried(): Map<string, Carried> {
    const given = new Map<string, Carried>()
    for (const column of this.parameters) {
      const value = this.given.get(column.name)
      if (value === undefined) throw thrown(fault('records.no-parameter', { parameter: column.name, problem: 'nobody wrote it yet' }))
      given.set(column.name, carriedFor(value, column))
    }
    return given
  }

  private startWith({ name, type }: SetColumn) {
    const given = this.given.get(name)
    const start = given ?? this.ground.set.how.start.find(({ parameter }) => parameter === name)?.value
    if (start === undefined) return
    const fits = toRaw(start, type, null)
    if (!fits.ok) throw thrown(fault('records.no-parameter', { parameter: name, problem: fits.detail }))
    this.given.set(name, fits.raw)
    this.ground.board.setParameter(name, fits.raw)
  }

  /** What came of other parameters says nothing of these. */
  private grewOld() {
    if (this.phase !== 'done') return
    this.phase = 'old'
    this.ground.board.doubt(quality.UncertainLastUsableValue, { state: 'old' })
  }
}
