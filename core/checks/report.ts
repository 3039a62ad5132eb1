import { bytesLine } from '../text/bytesText'
import { momentText } from '../text/moment'
import { stateText, wayText, type CheckWay, type PointState } from './state'

/** What a sheet tells on paper. Times are Unix ms. */
export interface Report {
  site: string
  revision: number
  name: string
  against: string
  note: string
  madeBy: string
  madeAt: number
  closedBy: string | null
  closedAt: number | null
  /** SHA-256 of all that was checked, hexadecimal. */
  digest: string
  points: readonly ReportedPoint[]
}

export interface ReportedPoint {
  path: string
  source: string
  unit: string
  state: PointState
  /** What is another thing since it was checked. */
  changed: readonly { field: string; before: string | null; after: string | null }[]
  last: {
    at: number
    who: string
    way: CheckWay
    expected: string
    seen: string
    remark: string
    evidence: ReportedEvidence | null
  } | null
}

interface ReportedEvidence {
  at: number
  stages: readonly { title: string; text: string; detail: string; at?: number | undefined }[]
  frames: readonly { at: number; out: boolean; length: number; bytes: string; summary: string }[]
}

/** The words of a report, whatever it is drawn with. Cells may have several lines. */
export interface ReportTexts {
  title: string
  intro: string[]
  head: readonly string[]
  rows: { state: PointState; cells: string[] }[]
  evidence: { title: string; rows: string[][] }[]
  signed: readonly string[]
  footer: string
}

export const reportHead = ['Point', 'From', 'Expected', 'Seen', 'Outcome', 'Who, when, how', 'Remark'] as const

export const reportTexts = (report: Report): ReportTexts => {
  const { name, note, digest, points } = report
  const good = points.filter(({ state }) => state === 'good').length
  return {
    title: name,
    intro: [madeText(report), ...(note === '' ? [] : [note]), `${good} of ${points.length} points good.`],
    head: reportHead,
    rows: points.map((point) => ({ state: point.state, cells: cellsOf(point) })),
    evidence: points.flatMap(({ path, last }) =>
      last?.evidence ? { title: `${path}, ${momentText(last.evidence.at)}`, rows: evidenceRows(last.evidence) } : [],
    ),
    signed: ['For the site', 'For the far side'],
    footer: `Digest of what was checked (SHA-256): ${digest}. The page of this sheet makes it anew: where it differs, something was changed since.`,
  }
}

const madeText = ({ site, revision, against, madeBy, madeAt, closedBy, closedAt }: Report) => {
  const of = `${site}, revision ${revision}${against === '' ? '' : `, against ${against}`}.`
  const until = closedAt === null ? 'not closed' : `closed ${momentText(closedAt)} by ${closedBy ?? ''}`
  return `${of} Begun ${momentText(madeAt)} by ${madeBy}; ${until}.`
}

const cellsOf = ({ path, source, unit, state, changed, last }: ReportedPoint): string[] => {
  const why = state === 'again' ? changed.map(({ field, before, after }) => `${field}: ${before ?? 'none'} → ${after ?? 'none'}`) : []
  const outcome = [stateText[state], ...why].join('\n')
  if (!last) return [path, source, '', '', outcome, '', '']
  const { who, at, way, expected, seen, remark } = last
  return [path, source, withUnit(expected, unit), withUnit(seen, unit), outcome, `${who}\n${momentText(at)}\n${wayText[way]}`, remark]
}

/** Of a frame so many bytes are printed. */
const printedBytes = 96

const bytesOf = (base64: string) => Uint8Array.from(atob(base64), (one) => one.charCodeAt(0))

const evidenceRows = ({ stages, frames }: ReportedEvidence): string[][] => [
  ...stages.map(({ title, text, detail, at }) => [title, text, at === undefined ? detail : `${detail} ${momentText(at)}`]),
  ...frames.map(({ at, out, length, bytes, summary }) => [
    `${out ? 'Sent' : 'Received'} ${momentText(at)}`,
    bytesLine(bytesOf(bytes), printedBytes),
    `${summary} (${length} bytes)`,
  ]),
]

const withUnit = (text: string, unit: string) => (unit === '' || text === '' ? text : `${text} ${unit}`)
