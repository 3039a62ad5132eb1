import { meant } from '../formats/csv/formulas'
import { dialectOf, withoutHint } from '../formats/csv/dialect'
import { noNumber, numberIn, type DecimalSign } from '../formats/csv/numbers'
import { recordsOf, UnreadableCsv, withPlainLines } from '../formats/csv/records'
import { tableText, type Cell } from '../formats/csv/write'
import type { ScalarType } from '../tags/types'
import type { Model } from './model'
import { levels, type EquipmentDraft, type Level, type Property } from './settings'

/** Equipment as a table: one line for each, with a column for each input and each constant of its class. */

const ownColumns = ['path', 'class', 'level', 'description'] as const

/** What a line, or a folder, says of one piece of equipment; what it does not say stays as it is. */
export interface EquipmentSaid {
  line: number
  path: string
  fields: Partial<Pick<EquipmentDraft, 'class' | 'level' | 'description'>>
  constants: Record<string, EquipmentDraft['constants'][string] | null>
  bindings: Record<string, string>
  problems: { path: string; message: string }[]
}

export const mostPieces = 10_000

export type ReadTable = { ok: true; said: EquipmentSaid[] } | { ok: false; line: number; problem: string }

/** Reads a table (RFC 4180); delimiter and decimal sign are found out. */
export const readEquipment = (written: string, model: Model): ReadTable => {
  const { text, hint, lines } = withoutHint(withPlainLines(written.replace(/^\ufeff/, '')))
  const dialect = dialectOf(text, (cell) => ownColumns.includes(cell.trim().toLowerCase() as never))
  try {
    const records = [...recordsOf(text, hint ?? dialect.delimiter)].flat()
    const [head, ...rest] = records
    const columns = (head?.cells ?? []).map((cell) => cell.trim())
    if (!columns.some((name) => name.toLowerCase() === 'path'))
      return { ok: false, line: 1 + lines, problem: 'The first line names the columns; one of them is “path”.' }
    if (rest.length > mostPieces) return { ok: false, line: 1, problem: `There are more than ${mostPieces.toLocaleString('en-GB')} lines.` }
    const said = rest.map(({ line, cells }) => lineOf(line + lines, columns, cells, model, dialect.decimal))
    return { ok: true, said }
  } catch (error) {
    if (!(error instanceof UnreadableCsv)) throw error
    return { ok: false, line: error.line + lines, problem: error.problem }
  }
}

const lineOf = (line: number, columns: readonly string[], cells: readonly string[], model: Model, decimal: DecimalSign): EquipmentSaid => {
  const said: EquipmentSaid = { line, path: '', fields: {}, constants: {}, bindings: {}, problems: [] }
  const cellOf = (name: string) => {
    const i = columns.findIndex((column) => column.toLowerCase() === name)
    return i < 0 ? null : meant((cells[i] ?? '').trim())
  }
  said.path = cellOf('path') ?? ''
  for (const field of ['class', 'description'] as const) {
    const cell = cellOf(field)
    if (cell !== null) said.fields[field] = cell
  }
  const level = cellOf('level')
  if (level !== null) {
    if (level === '' || levels.includes(level as Level)) said.fields.level = (level || null) as Level | null
    else said.problems.push({ path: 'level', message: `A level is ${levels.join(', ')}.` })
  }
  const known = model.byPath.get(said.path)
  const properties = model.propertiesOf(said.fields.class ?? known?.class ?? '')
  columns.forEach((name, i) => {
    if (ownColumns.includes(name.toLowerCase() as never) || name === '') return
    takeCell(said, properties, name, meant((cells[i] ?? '').trim()), decimal)
  })
  if (cells.length > columns.length) said.problems.push({ path: 'path', message: 'The line has more cells than there are columns.' })
  return said
}

/** A column is an input or a constant of the class; one of another class is left empty. */
const takeCell = (said: EquipmentSaid, properties: readonly Property[], name: string, cell: string, decimal: DecimalSign) => {
  const property = properties.find((one) => one.name === name)
  const kind = property?.made.kind
  if (property && kind === 'input') said.bindings[name] = cell
  else if (property && kind === 'constant') {
    const value = cell === '' ? null : valueIn(cell, property.type, decimal)
    if (value === undefined) said.problems.push({ path: `constants.${name}`, message: unfit(cell, property.type, decimal) })
    else said.constants[name] = value
  } else if (cell !== '') {
    const message = property ? `${name} is worked out; it has no value of its own.` : `Its class has no input and no constant “${name}”.`
    said.problems.push({ path: name, message })
  }
}

const valueIn = (cell: string, type: ScalarType, decimal: DecimalSign): string | number | boolean | undefined => {
  if (type === 'string') return cell
  if (type === 'bool') return /^true$/i.test(cell) ? true : /^false$/i.test(cell) ? false : undefined
  return numberIn(cell, decimal) ?? undefined
}
const unfit = (cell: string, type: ScalarType, decimal: DecimalSign) =>
  type === 'bool' ? `“${cell}” is neither true nor false.` : noNumber(cell, decimal)

/** Equipment as a table that can be read back. */
export const writeEquipment = (model: Model): string => {
  const pieces = [...model.equipment.values()].sort((a, b) => (a.path < b.path ? -1 : 1))
  const isOwn = ({ made }: Property) => made.kind === 'input' || made.kind === 'constant'
  const names = [
    ...new Set(
      pieces.flatMap((one) =>
        model
          .propertiesOf(one.class)
          .filter(isOwn)
          .map(({ name }) => name),
      ),
    ),
  ]
  const rows = pieces.map(({ path, class: of, level, description, bindings, constants }): Cell[] => [
    ...[path, of, level ?? '', description],
    ...names.map((name): Cell => bindings[name] ?? constants[name] ?? ''),
  ])
  return tableText([[...ownColumns, ...names], ...rows])
}
