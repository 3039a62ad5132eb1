import { sideText } from '../faults/catalogue'
import type { Cause } from '../diagnosis/rank'
import { duration } from '../text/duration'

/** What the summary page of a handover pack tells. Times are Unix ms, and written in UTC. */
export interface Summary {
  site: string
  revision: number
  madeAt: number
  by: string
  version: string
  machine: readonly (readonly [what: string, value: string])[]
  things: readonly { kind: string; name: string; flow: string; sentence: string }[]
  notInForce: readonly { name: string; why: string }[]
  stops: readonly {
    name: string
    at: number
    step: string
    evidence: string
    causes: readonly Cause[]
    changes: readonly string[]
    lastGood: number | null
  }[]
  journal: readonly { at: number; severity: string; source: string; text: string }[]
  files: readonly (readonly [name: string, what: string])[]
}

/** A page of its own: no script, nothing from elsewhere. */
export const summaryPage = (summary: Summary): string => {
  const { site, revision, madeAt, by, version, machine, things, notInForce, stops, journal, files } = summary
  return `<!doctype html>
<html lang="en">
<meta charset="utf-8">
<meta http-equiv="content-security-policy" content="default-src 'none'; style-src 'unsafe-inline'">
<title>${safe(site)}: handover pack</title>
<style>${style}</style>
<h1>${safe(site)}</h1>
<p>Handover pack of Keen Conduit ${safe(version)}, revision ${revision}, made ${moment(madeAt)} by ${safe(by)}. Times are UTC. Secrets were taken out.</p>
<h2>Paths that stop</h2>
${stops.length === 0 ? '<p>None at that moment.</p>' : stops.map(stopPart).join('')}
<h2>Not as configured</h2>
${
  notInForce.length === 0
    ? '<p>Everything is in force.</p>'
    : table(
        ['Thing', 'Why'],
        notInForce.map(({ name, why }) => [name, why]),
      )
}
<h2>State of everything</h2>
${table(
  ['', 'Name', 'State', 'What is happening'],
  things.map(({ kind, name, flow, sentence }) => [kind, name, flow, sentence]),
)}
<h2>The machine</h2>
${table(['', ''], machine)}
<h2>The journal’s last troubles</h2>
${
  journal.length === 0
    ? '<p>None.</p>'
    : table(
        ['Time', 'Severity', 'Source', 'Text'],
        journal.map((one) => [moment(one.at), one.severity, one.source, one.text]),
      )
}
<h2>What is in this pack</h2>
${table(['File', 'What it is'], files)}
</html>
`
}

const stopPart = ({ name, at, step, evidence, causes, changes, lastGood }: Summary['stops'][number]): string => {
  const [first, ...others] = causes
  const also = others.filter(({ isRuledOut }) => !isRuledOut)
  return `<section>
<h3>${safe(name)} stops at “${safe(step)}”</h3>
<p>${safe(evidence)} (${moment(at)})${lastGood === null ? '' : `; it worked until ${duration(at - lastGood)} before`}</p>
${first ? `<p><strong>${safe(first.title)}</strong> Whose side: ${safe(sideText[first.side])}.</p>${list('ul', first.for)}<p>${safe(first.where)}:</p>${list('ol', first.next)}` : ''}
${also.length === 0 ? '' : `<p>Also possible: ${also.map(({ title }) => safe(title)).join(' ')}</p>`}
${changes.length === 0 ? '' : `<p>Otherwise than before:</p>${list('ul', changes)}`}
</section>`
}

const moment = (at: number) => new Date(at).toISOString().replace('T', ' ').slice(0, 19)
const list = (tag: 'ul' | 'ol', lines: readonly string[]) => `<${tag}>${lines.map((line) => `<li>${safe(line)}</li>`).join('')}</${tag}>`
const row = (tag: 'td' | 'th', cells: readonly string[]) => `<tr>${cells.map((cell) => `<${tag}>${safe(cell)}</${tag}>`).join('')}</tr>`
const table = (head: readonly string[], rows: readonly (readonly string[])[]) =>
  `<table>${head.some(Boolean) ? row('th', head) : ''}${rows.map((cells) => row('td', cells)).join('')}</table>`
const safe = (text: string) => text.replace(/&/g, '&amp;').replace(/</g, '&lt;').replace(/>/g, '&gt;').replace(/"/g, '&quot;')

const style = `
body { font: 14px/1.5 system-ui, sans-serif; color: #18262b; background: #f4f3ee; max-width: 1000px; margin: 24px auto; padding: 0 20px }
h1 { font-size: 24px } h2 { font-size: 17px; margin-top: 28px } h3 { font-size: 15px; margin: 0 }
section { background: #fff; border: 1px solid #ddd; border-left: 4px solid #a1203f; border-radius: 6px; padding: 12px 16px; margin: 10px 0 }
table { border-collapse: collapse; width: 100%; background: #fff } td, th { border: 1px solid #ddd; padding: 4px 8px; text-align: left; vertical-align: top; overflow-wrap: anywhere }
`
