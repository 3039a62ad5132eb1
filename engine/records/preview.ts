import { fault, type Fault, isFault } from '#core/faults/catalogue'
import { nothingBut, type RunFacts } from '#core/bridges/run'
import { readStatement } from '#core/bridges/statement'
import { textOf, type Carried } from '#core/messages/carried'
import { carriedFor, setColumnOf, type SetColumn } from '#core/records/columns'
import { tagsOf, type SetShape } from '#core/records/items'
import type { QuerySettings, RecordSetDraft } from '#core/records/settings'
import { SetStatements } from '#core/records/statements'
import { toRaw } from '#core/tags/scaling'
import { mostPreviewed, mostPreviewedTags, type RecordSetPreview } from '#shared/records/recordSet'
import type { AskedRows, RowStore } from '../links/receiving'
import type { SetImage } from './board'
import { inputsOf, type InputsGround } from './inputs'
import { numberedTo } from './numbered'
import { Columns, labelOf } from './rowsRead'
import { thrown } from './work'

interface Looked {
  columns: Columns
  asked: AskedRows
  total: number | null
  parameters: SetColumn[]
  /** How the rows would be called; null: there is one. */
  labels: string[] | null
  /** What became of a run that failed. */
  fault: Fault | null
}

export interface Trial {
  set: RecordSetDraft
  /** The key that the saved set points at. */
  key: string | null
  /** What the saved set came to last, where it still is this one. */
  last: SetImage | null
  /** What a procedure is run with; null: it is not. */
  run: Readonly<Record<string, boolean | number | string>> | null
}

/** What a set would begin with: the first rows, and the tags that come of them. What fails is told in it. */
export const previewOf = async (trial: Trial, store: RowStore, ground: InputsGround): Promise<RecordSetPreview> => {
  try {
    return shown(trial, await look(trial, store, ground), store)
  } catch (error) {
    return nothingBecause(faultOf(error))
  }
}

const faultOf = (error: unknown): Fault => (isFault(error) ? error : fault('ours.unexpected', { problem: (error as Error).message }))

const nothingBecause = (why: Fault): RecordSetPreview => ({
  ...{ fault: why, columns: [], rows: [], total: null, parameters: [], at: null, tags: [], tagCount: 0 },
})

const look = ({ set, run }: Trial, store: RowStore, ground: InputsGround): Promise<Looked> => {
  const { how } = set
  if (how.kind === 'procedure') return lookAtProcedure(set, store, run)
  return how.kind === 'query' ? lookAtQuery({ ...set, how }, store, ground) : lookAtRows(set, store)
}

const lookAtRows = async (set: RecordSetDraft, store: RowStore): Promise<Looked> => {
  const { how, nulls } = set
  if (how.kind !== 'snapshot' && how.kind !== 'cursor') throw new Error('This set has no rows of a table.')
  const statements = new SetStatements(how, store.dialect)
  const asked = await store.ask(statements.firstRows(mostPreviewed))
  const [[counted] = []] = (await store.ask(statements.count())).rows
  const columns = new Columns({ chosen: how.columns, key: how.key, nulls })
  const read = columns.of(asked, store.dialect)
  const labels = how.kind === 'cursor' ? null : asked.rows.map((row, i) => (read.keyAt < 0 ? String(i + 1) : labelOf(row[read.keyAt]!)))
  const total = Number(counted ?? 0)
  const why = total > how.most ? fault('records.too-many', { name: set.name, most: how.most }) : null
  return { columns, asked, total, parameters: [], labels, fault: why }
}

const lookAtQuery = async (
  { how, nulls }: RecordSetDraft & { how: QuerySettings },
  store: RowStore,
  ground: InputsGround,
): Promise<Looked> => {
  const statement = readStatement(how.statement, { inputs: how.take.map(({ name }) => ({ name, hasParts: false })), lookUps: [] })
  if (!statement.ok) throw new Error(statement.problem)
  const now = Date.now()
  const run: RunFacts = {
    ...{ occasion: nothingBut('hand', null, now), now, number: 0, row: 1, site: '', bridge: '' },
    inputs: inputsOf(how.take, ground),
  }
  const parameters = statement.parameters.map((work) => work(run))
  const asked = await store.ask({ parts: statement.parts, parameters, most: Math.min(how.rows, mostPreviewed) })
  const columns = new Columns({ chosen: [], key: how.key, nulls })
  const { keyAt } = columns.of(asked, store.dialect)
  const labels = how.rows === 1 ? null : keyAt < 0 ? numberedTo(how.rows) : asked.rows.map((row) => labelOf(row[keyAt]!))
  return { columns, asked, total: null, parameters: [], labels, fault: null }
}

const lookAtProcedure = async ({ how, nulls }: RecordSetDraft, store: RowStore, run: Trial['run']): Promise<Looked> => {
  if (how.kind !== 'procedure') throw new Error('This set calls no procedure.')
  const routine = await store.routine({ schema: how.schema, table: how.routine })
  const parameters = routine.parameters.filter(({ mode }) => mode !== 'out').map((one) => setColumnOf(one, store.dialect))
  const columns = new Columns({ chosen: [], key: '', nulls })
  const labels = how.rows === 1 ? null : numberedTo(how.rows)
  if (run === null) return { columns, asked: { columns: [], rows: [] }, total: null, parameters, labels, fault: null }
  try {
    const asked = await store.callRoutine(routine, givenTo(parameters, run), Math.min(how.rows, mostPreviewed))
    return { columns, asked, total: asked.rows.length, parameters, labels, fault: null }
  } catch (error) {
    // what goes into it is known all the same
    return { columns, asked: { columns: [], rows: [] }, total: null, parameters, labels, fault: faultOf(error) }
  }
}

const givenTo = (parameters: readonly SetColumn[], run: NonNullable<Trial['run']>): Map<string, Carried> =>
  new Map(
    parameters.map((column): [string, Carried] => {
      const value = run[column.name]
      if (value === undefined) throw thrown(fault('records.no-parameter', { parameter: column.name, problem: 'no value was given' }))
      const fits = toRaw(value, column.type, null)
      if (!fits.ok) throw thrown(fault('records.no-parameter', { parameter: column.name, problem: fits.detail }))
      return [column.name, carriedFor(fits.raw, column)]
    }),
  )

const shown = (
  { set, key, run, last }: Trial,
  { columns, asked, total, parameters, labels, fault: why }: Looked,
  { dialect }: RowStore,
): RecordSetPreview => {
  const read = columns.of(asked, dialect)
  // only a run tells what a procedure gives, and looking runs none
  const came = set.how.kind === 'procedure' && run === null ? last : null
  const shownColumns = came?.columns ?? read.shown
  const shape: SetShape = { columns: shownColumns, rows: labels, parameters, key: read.keyAt < 0 ? null : read.all[read.keyAt]! }
  const tags = tagsOf(set, shape)
  const perRow = labels === null || labels.length === 0 ? 0 : read.shown.length
  const beyond = Math.max(0, (total ?? 0) - asked.rows.length)
  const at = key === null || read.keyAt < 0 ? -1 : asked.rows.findIndex((row) => labelOf(row[read.keyAt]!) === key)
  return {
    ...{ fault: why, columns: [...shownColumns], total, parameters, at: at < 0 ? null : at },
    rows: came
      ? came.rows.map((row) => row.map((value, i) => (value === undefined ? null : shownText(carriedFor(value, came.columns[i]!)))))
      : asked.rows.map((row) => read.places.map((i) => shownText(row[i]))),
    tags: tags.slice(0, mostPreviewedTags),
    tagCount: tags.length + (set.how.kind === 'snapshot' ? beyond * perRow : 0),
  }
}

const longestShown = 200
const shownText = (value: Carried | undefined): string | null => {
  if (value === null || value === undefined) return null
  const text = textOf(value)
  return text.length > longestShown ? `${text.slice(0, longestShown)}…` : text
}
