import { tableText } from '../formats/csv/write'
import type { KeptEntry } from './entry'

export type JournalForm = 'text' | 'csv' | 'lines'

const columns = ['at', 'last at', 'times', 'severity', 'source', 'text', 'code', 'evidence', 'next']
const iso = (at: number) => new Date(at).toISOString()

/** For people: one event, one line. */
const asText = ({ at, lastAt, times, severity, source, text, fault }: KeptEntry) => {
  const again = times > 1 ? `  (${times} times until ${iso(lastAt)})` : ''
  return `${iso(at)}  ${severity.padEnd(7)}  ${source}: ${oneLine(text)}${fault ? `  [${fault.code}]` : ''}${again}`
}
const asCsv = ({ at, lastAt, times, severity, source, text, fault }: KeptEntry) =>
  tableText([[iso(at), iso(lastAt), times, severity, source, text, fault?.code ?? null, fault?.evidence ?? null, fault?.next ?? null]])
const asLine = ({ at, lastAt, ...entry }: KeptEntry) => JSON.stringify({ ...entry, at: iso(at), lastAt: iso(lastAt) })
const oneLine = (text: string) => text.replace(/\s*[\r\n]+\s*/g, ' ')

const ways: Record<JournalForm, (entry: KeptEntry) => string> = {
  text: (entry) => `${asText(entry)}\n`,
  csv: asCsv,
  lines: (entry) => `${asLine(entry)}\n`,
}

/** What stands above the entries of a file. */
export const journalHead = (form: JournalForm): string => (form === 'csv' ? `\ufeff${tableText([columns])}` : '')
/** Entries of the journal as a part of a file: lines for people, CSV (RFC 4180), or JSON, a line each. */
export const journalPart = (form: JournalForm, entries: readonly KeptEntry[]): string => entries.map(ways[form]).join('')
