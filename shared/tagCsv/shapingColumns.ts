import { numberCell, orElse, set, spanCell, type Read } from '#core/formats/cells'
import type { Column, Reading } from '#core/formats/column'
import { codesFrom, codesText, oddWords, type OddChoice, type OddValues } from '#core/tags/odd'
import type { Reports } from '#core/tags/reports'
import type { LinkNames } from '../sources/columns'
import type { TagDraft } from '../tags'

type ShapingColumn = Column<TagDraft, LinkNames>

/** What becomes of odd values, and which changes are passed on. */
export const shapingColumns: readonly ShapingColumn[] = [
  choiceColumn('nan', 'nan', 'What becomes of a float that is no number'),
  choiceColumn('infinity', 'infinite', 'What becomes of infinity'),
  choiceColumn('denormal', 'denormal', 'What becomes of denormal floats'),
  {
    name: 'error_codes',
    about: 'Raw values by which the device says that it has none, and what becomes of each: 0x8000 bad; 32760..32767 last; -1 0.',
    field: 'odd.codes',
    show: ({ odd }) => (odd?.codes && odd.codes.length > 0 ? codesText(odd.codes) : null),
    put: (tag, cell) => {
      const codes = cell === '' ? undefined : codesFrom(cell)
      if (codes === null) return `“${cell}” are no error codes: as in 0x8000 bad; 32760..32767 last.`
      setOdd(tag, { codes })
      return null
    },
  },
  {
    name: 'deadband',
    about: 'Changes that are no larger are held back: in the tag’s unit, or with % of its range.',
    field: 'reports.deadband.value',
    show: ({ reports }) => {
      const deadband = reports?.deadband
      return !deadband ? null : deadband.kind === 'percent' ? `${deadband.value} %` : deadband.value
    },
    put: (tag, cell, reading) => {
      const [, figure = '', percent] = /^(.*?)\s*(%)?$/.exec(cell) ?? []
      return set(
        orElse(figure, null, () => numberCell(figure, reading)),
        (value) => setReports(tag, { deadband: value === null ? null : { kind: percent ? 'percent' : 'absolute', value } }),
      )
    },
  },
  timeColumn('least_time', 'least', 'Between two values that are passed on at least'),
  timeColumn('most_time', 'most', 'After so long without a change a confirmed value is passed on once more'),
]

/** The unit before it is converted; it stands before the tag’s own. */
export const rawUnitColumn: ShapingColumn = {
  name: 'raw_unit',
  about: 'The unit before it is converted to the tag’s. Empty: it is the tag’s.',
  field: 'rawUnit',
  show: ({ rawUnit }) => rawUnit || null,
  put: (tag, cell) => {
    tag.rawUnit = cell
    return null
  },
}

function choiceColumn(name: string, kind: 'nan' | 'infinite' | 'denormal', about: string): ShapingColumn {
  return {
    name,
    about: `${about}: ${oddWords.join(', ')} or a number that stands instead. Empty: as the link has it.`,
    field: `odd.${kind}`,
    show: ({ odd }) => odd?.[kind] ?? null,
    put: (tag, cell, reading) =>
      set(
        orElse(cell, undefined, () => choiceCell(cell, reading)),
        (choice) => setOdd(tag, { [kind]: choice }),
      ),
  }
}

const choiceCell = (cell: string, reading: Reading<unknown>): Read<OddChoice> => {
  const word = oddWords.find((one) => one === cell.toLowerCase())
  if (word) return { ok: true, value: word }
  const number = numberCell(cell, reading)
  return number.ok ? number : { ok: false, problem: `“${cell}” is none of ${oddWords.join(', ')} and no number.` }
}

function timeColumn(name: string, field: 'least' | 'most', about: string): ShapingColumn {
  return {
    name,
    about: `${about}: milliseconds, or a number with ms, s, min or h.`,
    field: `reports.${field}`,
    show: ({ reports }) => reports?.[field] ?? null,
    put: (tag, cell, reading) =>
      set(
        orElse(cell, null, () => spanCell(cell, reading)),
        (value) => setReports(tag, { [field]: value }),
      ),
  }
}

const setOdd = (tag: TagDraft, part: OddValues) => {
  const next = { ...tag.odd, ...part }
  for (const key of Object.keys(next) as (keyof OddValues)[]) if (next[key] === undefined) delete next[key]
  tag.odd = Object.keys(next).length === 0 ? null : (next as TagDraft['odd'])
}

const setReports = (tag: TagDraft, part: Partial<Reports>) => {
  const next = { ...(tag.reports ?? { deadband: null, least: null, most: null }), ...part }
  tag.reports = Object.values(next).every((value) => value === null) ? null : (next as TagDraft['reports'])
}
