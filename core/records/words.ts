import { shownTime, triggerText } from '../bridges/words'
import type { Again, CursorSettings, How, Move, ProcedureSettings, QuerySettings, RowsFrom, SetKind } from './settings'

/** The parts of a record set's sentence, as pages and lists have them. */

export const kindTitles: Record<SetKind, { title: string; subtitle: string }> = {
  snapshot: { title: 'Table snapshot', subtitle: 'every row as tags: a folder for each column, a tag for each row' },
  cursor: { title: 'Row cursor', subtitle: 'one row as tags, and tags that move it to the next, the last, or to a key' },
  procedure: { title: 'Procedure call', subtitle: 'parameters to be written, a tag that runs it, and what comes of it' },
  query: { title: 'Timed query', subtitle: 'a statement with values of tags in it, asked when a clock or a tag says so' },
}

const mostStatement = 60
const short = (statement: string) => {
  const text = statement.replace(/\s+/g, ' ').trim()
  return text.length > mostStatement ? `${text.slice(0, mostStatement)}…` : text || '…'
}

export const fromText = (from: RowsFrom): string =>
  from.kind === 'query' ? short(from.statement) : [from.schema, from.table].filter(Boolean).join('.') || 'a table'

export const columnsText = (columns: readonly string[]): string => {
  if (columns.length === 0) return 'all columns'
  return columns.length > 4 ? `${columns.length} columns` : columns.join(', ')
}

export const againText = ({ every, stamp }: Again): string => {
  const parts = [stamp && `when ${stamp} moves`, every !== null && `every ${shownTime(every)}`].filter(Boolean)
  return parts.join(', and ') || 'on request'
}

const moveTexts: Record<Move, string> = {
  next: 'next',
  previous: 'previous',
  first: 'first',
  last: 'last',
  number: 'to a number',
  key: 'to a key',
}
export const moveText = (move: Move) => moveTexts[move]
export const movesText = ({ moves }: Pick<CursorSettings, 'moves'>): string => moves.map(moveText).join(' · ') || 'nowhere'

export const writesText = (writes: readonly string[]): string => (writes.length === 0 ? 'nothing' : columnsText(writes))

export const orderText = ({ order, key, descending }: CursorSettings): string =>
  `${order || key || '…'}${descending ? ', the last first' : ''}`

export const routineText = ({ schema, routine }: ProcedureSettings): string => [schema, routine].filter(Boolean).join('.') || 'a procedure'

export const runsText = ({ atOnce }: ProcedureSettings): string =>
  atOnce ? 'when a consumer says so, and when a parameter was written' : 'when a consumer says so'

export const startText = ({ start }: ProcedureSettings): string =>
  start.length === 0 ? 'nothing' : start.map(({ parameter, value }) => `${parameter} = ${String(value)}`).join(', ')

export const rowsText = (rows: number): string => (rows === 1 ? 'its first row' : `up to ${rows.toLocaleString('en-GB')} rows`)

export const takeText = ({ take }: QuerySettings): string =>
  take.map(({ name, path }) => `${name} = ${path || '…'}`).join(', ') || 'nothing of tags'

export const whenText = ({ when }: QuerySettings): string => when.map((trigger) => triggerText(trigger, () => '')).join(' or ') || 'never'

/** In a line, for lists. */
export const howText = (how: How): string => {
  switch (how.kind) {
    case 'snapshot':
      return `every row of ${fromText(how.from)}`
    case 'cursor':
      return `one row of ${fromText(how.from)}`
    case 'procedure':
      return `what ${routineText(how)} gives`
    case 'query':
      return short(how.statement)
  }
}
