import type { ScalarType } from '../tags/types'
import { visible } from '../text/visible'
import type { SetColumn } from './columns'
import { moves, type Move, type RecordSetDraft } from './settings'

/** What of a record set a tag is. */
export const itemParts = [
  ...['value', 'parameter', 'count', 'position', 'state', 'error', 'run', 'again'],
  ...['next', 'previous', 'first', 'last', 'number', 'key', 'change', 'stamp'],
] as const
export type ItemPart = (typeof itemParts)[number]

export interface RecordItem {
  part: ItemPart
  /** Of a value its column, of a parameter its name. */
  column: string
  /** Of one of several rows: how it is called. */
  row: string
}

/** A tag that a set makes. */
export interface MadeTag extends RecordItem {
  path: string
  type: ScalarType
  access: 'read' | 'readwrite'
  description: string
  note: string
}

/** What a set came to when it was last looked at. */
export interface SetShape {
  /** Null: only a run would tell. */
  columns: readonly SetColumn[] | null
  /** What the rows are called; null: it has one row, and its tags are called by the columns alone. */
  rows: readonly string[] | null
  parameters: readonly SetColumn[]
  /** Of a cursor, the column that tells rows apart. */
  key: SetColumn | null
}

export const itemKey = ({ part, column, row }: RecordItem): string => (part === 'value' ? `=${column}\n${row}` : `${part} ${column}`)

/** As it stands in lists. */
export const itemText = ({ part, column, row }: RecordItem): string => {
  if (part === 'value') return row === '' ? column : `${column} of ${row}`
  if (part === 'parameter') return `parameter ${column}`
  return moving.has(part) ? `move: ${part}` : part
}

const moving = new Set<string>(moves)

const partTexts: Record<Exclude<ItemPart, 'value' | 'parameter'>, string> = {
  count: 'how many rows there are',
  position: 'which of them is pointed at, counted from 1; 0: none',
  state: 'what it does, in words',
  error: 'what failed last; empty: nothing did',
  run: 'true runs it',
  again: 'true reads it again',
  next: 'true moves to the next row',
  previous: 'true moves to the row before',
  first: 'true moves to the first row',
  last: 'true moves to the last row',
  number: 'moves to the row of this number, counted from 1',
  key: 'moves to the row of this key',
  change: 'how often the set changed; it is the last but one to change',
  stamp: 'when the set was whole; the last of it to change',
}

/** The tags of a set, in the order in which they change: values first, the stamp last. */
export const tagsOf = (set: Pick<RecordSetDraft, 'folder' | 'how'>, shape: SetShape): MadeTag[] => {
  const { how, folder } = set
  const names = new Names(folder)
  const control = (part: Exclude<ItemPart, 'value' | 'parameter'>, path: string, type: ScalarType, writable = false): MadeTag => ({
    ...{ part, column: '', row: '', path: names.free(path), type, access: writable ? 'readwrite' : 'read' },
    ...{ description: partTexts[part], note: '' },
  })
  const ends = [control('change', 'change', 'uint32'), control('stamp', 'stamp', 'datetime')]
  const controls = [control('state', 'state', 'string'), control('error', 'error', 'string')]
  if (how.kind !== 'procedure') controls.push(control('again', 'read_again', 'bool', true))
  else controls.push(control('run', 'run', 'bool', true))
  if (how.kind === 'cursor' || shape.rows !== null) controls.push(control('count', 'count', 'uint32'))
  if (how.kind === 'cursor') {
    controls.push(control('position', 'position', 'uint32'))
    for (const move of how.moves) controls.push(control(move, `move/${move}`, moveType(move, shape), true))
  }
  const parameters = shape.parameters.map((parameter): MadeTag => ({
    ...{ part: 'parameter', column: parameter.name, row: '', path: names.free(`with/${nameFor(parameter.name)}`), type: parameter.type },
    ...{ access: 'readwrite', description: `parameter ${parameter.name}, ${parameter.declared}`, note: parameter.note },
  }))
  return [...parameters, ...valuesOf(set, shape, names), ...controls, ...ends]
}

const valuesOf = ({ how }: Pick<RecordSetDraft, 'how'>, { columns, rows }: SetShape, names: Names): MadeTag[] => {
  const writes = new Set('writes' in how ? how.writes : [])
  return (columns ?? []).flatMap((column) => {
    const { name, type, declared, note } = column
    const made = (row: string, path: string): MadeTag => ({
      ...{ part: 'value', column: name, row, path: names.free(path), type, access: writes.has(name) ? 'readwrite' : 'read' },
      ...{ description: row === '' ? `${name}, ${declared}` : `${name} of ${row}, ${declared}`.slice(0, 500), note },
    })
    return rows === null ? [made('', nameFor(name))] : rows.map((row) => made(row, `${nameFor(name)}/${nameFor(row)}`))
  })
}

const moveType = (move: Move, { key }: SetShape): ScalarType =>
  move === 'number' ? 'uint32' : move === 'key' ? (key?.type ?? 'string') : 'bool'

const longestName = 60
/** Any text as one level of a path. */
const nameFor = (text: string): string => visible(text).replaceAll('/', '_').trim().slice(0, longestName).trim() || '_'

/** No two tags of a set have one path. */
class Names {
  private taken = new Set<string>()

  constructor(private folder: string) {}

  free(path: string): string {
    for (let n = 1; ; n++) {
      const whole = `${this.folder}/${path}${n === 1 ? '' : `_${n}`}`
      if (this.taken.has(whole)) continue
      this.taken.add(whole)
      return whole
    }
  }
}
