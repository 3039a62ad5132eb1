import { tableText } from '../../formats/csv/write'
import { namesText } from '../../tags/valueNames'
import type { ProgramPoint } from './points'

/** The tags of a program as a table of tags; names and descriptions are only touched where the program has some. */
export const programTable = (points: readonly ProgramPoint[], link: string): string => {
  const usual: Column[] = [
    ['path', ({ path }) => path],
    ['link', () => link],
    ['address', ({ address }) => address],
    ['type', ({ type }) => type],
    ['form', ({ form }) => unusual(form)],
    ['length', ({ length }) => length],
    ['elements', ({ count }) => count],
  ]
  const told = said.filter(([, cell]) => points.some((point) => cell(point) !== ''))
  const columns = [...usual, ...told]
  return tableText([columns.map(([name]) => name), ...points.map((point) => columns.map(([, cell]) => cell(point)))])
}

type Column = [name: string, cell: (point: ProgramPoint) => string | number | null]

const said: Column[] = [
  ['names', ({ names }) => namesText(names)],
  ['description', ({ description }) => description],
]

/** What a type has by itself is not said. */
const unusual = (form: ProgramPoint['form']) => (form === 'counted' || form === 'bcd8' ? null : form)
