import { tableText } from '../formats/csv/write'
import type { Call } from './call'

export type CallForm = 'text' | 'csv' | 'lines'

const columns = ['at', 'number', 'client', 'from', 'as', 'service', 'outcome', 'status', 'ms', 'item', 'value', 'item status']
const iso = (at: number) => new Date(at).toISOString()
const msText = (ms: number | null) => (ms === null ? '' : ms.toFixed(2))
const oneLine = (text: string) => text.replace(/\s*[\r\n]+\s*/g, ' ')

/** For people: a call, a line; its items below, further in. */
const asText = ({ at, client, service, outcome, status, ms, items, more }: Call): string => {
  const head = `${iso(at)}  ${client.name} (${client.as}, ${client.from})  ${service}: ${outcome}, ${status}${ms === null ? '' : `, ${msText(ms)} ms`}`
  const below = items.map(({ what, value, status: said }) => `    ${what}${value === null ? '' : ` = ${value}`}${said ? `  ${said}` : ''}`)
  const lines = [head, ...below, ...(more > 0 ? [`    and ${more} more`] : [])]
  return `${lines.map(oneLine).join('\n')}\n`
}

/** An item a row, so that a table program counts and sorts them; a call without items has one. */
const asCsv = ({ n, at, client, service, outcome, status, ms, items }: Call): string => {
  const head = [iso(at), n, client.name, client.from, client.as, service, outcome, status, msText(ms)]
  if (items.length === 0) return tableText([[...head, null, null, null]])
  return tableText(items.map((item) => [...head, item.what, item.value, item.status]))
}

const ways: Record<CallForm, (call: Call) => string> = {
  text: asText,
  csv: asCsv,
  lines: (call) => `${JSON.stringify({ ...call, at: iso(call.at) })}\n`,
}

/** What stands above the calls of a file. */
export const callsHead = (form: CallForm): string => (form === 'csv' ? `\ufeff${tableText([columns])}` : '')
/** Calls as a part of a file: lines for people, CSV (RFC 4180), or JSON, a line each. */
export const callsPart = (form: CallForm, calls: readonly Call[]): string => calls.map(ways[form]).join('')
