import type { ReportTexts } from './report'

/** A page of its own: no script, nothing from elsewhere; printed, a table that goes on over pages. */
export const reportPage = ({ title, intro, head, rows, evidence, signed, footer }: ReportTexts): string => `<!doctype html>
<html lang="en">
<meta charset="utf-8">
<meta http-equiv="content-security-policy" content="default-src 'none'; style-src 'unsafe-inline'">
<title>${safe(title)}</title>
<style>${style}</style>
<h1>${safe(title)}</h1>
${intro.map((text) => `<p>${lines(text)}</p>`).join('\n')}
${table(
  head,
  rows.map(({ state, cells }) => cells.map((text, column) => (column === outcomeColumn ? marked(text, state) : lines(text)))),
)}
${evidence.length === 0 ? '' : '<h2>Evidence</h2>'}
${evidence
  .map(
    (one) =>
      `<h3>${safe(one.title)}</h3>${table(
        [],
        one.rows.map((cells) => cells.map(lines)),
      )}`,
  )
  .join('\n')}
<table class="signed"><tr>${signed.map((who) => `<td>${safe(who)}</td>`).join('')}</tr></table>
<footer>${safe(footer)}</footer>
</html>
`

const outcomeColumn = 4

const marked = (text: string, state: string) => {
  const [first, ...rest] = text.split('\n')
  return [`<b class="${state}">${safe(first!)}</b>`, ...rest.map(safe)].join('<br>')
}

const table = (head: readonly string[], rows: readonly (readonly string[])[]): string => {
  const cells = (of: 'th' | 'td', texts: readonly string[]) => texts.map((text) => `<${of}>${text}</${of}>`).join('')
  const top = head.length === 0 ? '' : `<thead><tr>${cells('th', head.map(safe))}</tr></thead>`
  return `<table>${top}<tbody>${rows.map((row) => `<tr>${cells('td', row)}</tr>`).join('\n')}</tbody></table>`
}

const lines = (text: string): string => text.split('\n').map(safe).join('<br>')

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
footer { font-size: 10px; color: #50606a; overflow-wrap: anywhere; }
@page { margin: 16mm; }
`
