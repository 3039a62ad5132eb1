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
  why: string
  last: {
    at: number
    who: string
    way: CheckWay
    expected: string
    seen: string
    remark: string
    evidence: readonly { title: string; text: string; detail: string }[]
  } | null
}

/** A page of its own: no script, nothing from elsewhere; printed, a table that goes on over pages. */
export const reportPage = (report: Report): string => {
  const { site, revision, name, against, note, madeBy, madeAt, closedBy, closedAt, digest, points } = report
  const open = points.filter(({ state }) => state !== 'good')
  return `<!doctype html>
<html lang="en">
<meta charset="utf-8">
<meta http-equiv="content-security-policy" content="default-src 'none'; style-src 'unsafe-inline'">
<title>${safe(name)}</title>
<style>${style}</style>
<h1>${safe(name)}</h1>
<p>${safe(site)}, revision ${revision}${against === '' ? '' : `, against ${safe(against)}`}. Begun ${momentText(madeAt)} by ${safe(madeBy)}; ${
    closedAt === null ? 'not closed' : `closed ${momentText(closedAt)} by ${safe(closedBy ?? '')}`
  }.</p>
${note === '' ? '' : `<p>${safe(note)}</p>`}
<p>${points.length - open.length} of ${points.length} points good.</p>
${table(
  ['Point', 'From', 'Expected', 'Seen', 'Outcome', 'Who, when, how', 'Remark'],
  points.map(({ path, source, unit, state, why, last }) => [
    safe(path),
    safe(source),
    safe(last ? withUnit(last.expected, unit) : ''),
    safe(last ? withUnit(last.seen, unit) : ''),
    `<b class="${state}">${stateText[state]}</b>${why === '' ? '' : `<br>${safe(why)}`}`,
    last ? `${safe(last.who)}, ${momentText(last.at)}<br>${wayText[last.way]}` : '',
    safe(last?.remark ?? ''),
  ]),
)}
${evidencePart(points)}
<table class="signed"><tr><td>For the site</td><td>For the far side</td></tr></table>
<footer>Digest of what was checked (SHA-256): <code>${digest}</code>. The page of this sheet makes it anew: where it differs, something was changed since.</footer>
</html>
`
}

const evidencePart = (points: Report['points']): string => {
  const shown = points.filter(({ last }) => (last?.evidence.length ?? 0) > 0)
  if (shown.length === 0) return ''
  return `<h2>Evidence</h2>${shown
    .map(
      ({ path, last }) =>
        `<h3>${safe(path)}</h3>${table(
          ['', '', ''],
          last!.evidence.map(({ title, text, detail }) => [safe(title), safe(text), safe(detail)]),
        )}`,
    )
    .join('')}`
}

const withUnit = (text: string, unit: string) => (unit === '' || text === '' ? text : `${text} ${unit}`)

const table = (head: readonly string[], rows: readonly (readonly string[])[]): string => {
  const cells = (of: 'th' | 'td', texts: readonly string[]) => texts.map((text) => `<${of}>${text}</${of}>`).join('')
  return `<table><thead><tr>${cells('th', head.map(safe))}</tr></thead><tbody>${rows.map((row) => `<tr>${cells('td', row)}</tr>`).join('\n')}</tbody></table>`
}

const safe = (text: string): string =>
  text.replaceAll('&', '&amp;').replaceAll('<', '&lt;').replaceAll('>', '&gt;').replaceAll('"', '&quot;')

const style = `
body { font: 12px/1.45 system-ui, sans-serif; margin: 24px; color: #1c2b2d; }
h1 { font-size: 19px; } h2 { font-size: 15px; } h3 { font-size: 12px; font-family: ui-monospace, monospace; }
table { border-collapse: collapse; width: 100%; }
thead { display: table-header-group; } tr { break-inside: avoid; }
th, td { text-align: left; vertical-align: top; padding: 4px 6px; border-bottom: 1px solid #b9c4c4; overflow-wrap: anywhere; }
.bad, .again, .gone { text-decoration: underline; }
.signed { margin: 40px 0 20px; } .signed td { border: 0; border-top: 1px solid #1c2b2d; width: 50%; }
footer { font-size: 10px; color: #50606a; } code { overflow-wrap: anywhere; }
@page { margin: 16mm; }
`
