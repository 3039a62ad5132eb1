import { readStatement } from '../bridges/statement'
import { protocolOf, type LinkKind } from '../links/registry'
import { isWithin } from '../tags/path'
import type { RecordSetDraft, RowsFrom } from './settings'

export interface SetProblem {
  path: string
  message: string
}

/** What is known of what stands beside a set. */
export interface AroundSet {
  link(id: number): { name: string; kind: LinkKind } | undefined
  /** The folders of the other sets, with their names. */
  others: readonly { name: string; folder: string }[]
}

/** Everything wrong with a set that its contract cannot tell. */
export const setProblems = ({ linkId, folder, how }: RecordSetDraft, around: AroundSet): SetProblem[] => [
  ...linkProblems(linkId, around),
  ...around.others
    .filter((other) => isWithin(other.folder, folder) || isWithin(folder, other.folder))
    .slice(0, 1)
    .map(({ name }) => ({ path: 'folder', message: `The tags of “${name}” stand there: each set has a folder of its own.` })),
  ...howProblems(how),
]

const linkProblems = (id: number, { link }: AroundSet): SetProblem[] => {
  const known = link(id)
  if (!known) return [{ path: 'linkId', message: 'This link is not there.' }]
  const { capabilities, title } = protocolOf(known.kind)
  return capabilities.receives === 'table' ? [] : [{ path: 'linkId', message: `“${known.name}” gives no rows: it speaks ${title}.` }]
}

const howProblems = (how: RecordSetDraft['how']): SetProblem[] => {
  switch (how.kind) {
    case 'procedure':
      return []
    case 'query':
      return [
        ...statementProblems(
          how.statement,
          how.take.map(({ name }) => name),
          'how.statement',
        ),
        ...repeated(how.take.map(({ name }) => name)).map((i) => ({
          path: `how.take.${i}.name`,
          message: 'Another parameter has this name.',
        })),
        ...(how.when.length === 0 ? [{ path: 'how.when', message: 'When is it read? Give a time, a schedule or a tag.' }] : []),
      ]
    default:
      return [
        ...fromProblems(how.from),
        ...writeProblems(how),
        ...repeated(how.columns).map((i) => ({ path: `how.columns.${i}`, message: 'This column stands here twice.' })),
      ]
  }
}

const fromProblems = (from: RowsFrom): SetProblem[] =>
  from.kind === 'query' ? statementProblems(from.statement, [], 'how.from.statement') : []

const statementProblems = (statement: string, names: readonly string[], path: string): SetProblem[] => {
  const read = readStatement(statement, { inputs: names.map((name) => ({ name, hasParts: false })), lookUps: [] })
  return read.ok ? [] : [{ path, message: read.problem }]
}

const writeProblems = ({ writes, columns, key, from }: Extract<RecordSetDraft['how'], { kind: 'snapshot' | 'cursor' }>): SetProblem[] => {
  if (writes.length === 0) return []
  if (from.kind === 'query') return [{ path: 'how.writes', message: 'Only rows of a table are written back, not those of a statement.' }]
  if (key === '') return [{ path: 'how.writes', message: 'A row is found again by its key: choose the column that names the rows.' }]
  return writes.flatMap((column, i) => {
    if (column === key) return [{ path: `how.writes.${i}`, message: 'The key itself is not written.' }]
    return columns.length > 0 && !columns.includes(column)
      ? [{ path: `how.writes.${i}`, message: 'This column is no tag of the set.' }]
      : []
  })
}

const repeated = <T>(all: readonly T[]): number[] => all.flatMap((one, i) => (all.indexOf(one) < i ? [i] : []))
