import Papa from 'papaparse'
import { Payload } from '../messages/payload'
import type { FileTrigger } from './settings'

/** Lines of files as bridges take them: found among bytes, and made a message each. */

export type LineWay = Pick<FileTrigger, 'form' | 'delimiter' | 'decimal' | 'header' | 'encoding'>

export interface FoundLine {
  /** From where to where it goes, without its end, bytes. */
  from: number
  to: number
  /** Where the next one begins. */
  next: number
}

const newline = 10
const quote = 34

/**
 * The lines that end within some bytes. In a CSV file a line break between quotation marks is part of a cell (RFC 4180,
 * 2.6). What comes behind the last end of a line is not there yet.
 */
export const linesIn = (bytes: Uint8Array, { form, encoding }: Pick<LineWay, 'form' | 'encoding'>): FoundLine[] => {
  const step = encoding === 'utf-16le' ? 2 : 1
  const isWide = (at: number) => step === 1 || bytes[at + 1] === 0
  const lines: FoundLine[] = []
  let from = 0
  let isQuoted = false
  for (let at = 0; at + step <= bytes.length; at += step) {
    const byte = bytes[at]
    if (byte === quote && form === 'csv' && isWide(at)) isQuoted = !isQuoted
    else if (byte === newline && !isQuoted && isWide(at)) {
      const isCrLf = at - step >= from && bytes[at - step] === 13 && isWide(at - step)
      lines.push({ from, to: isCrLf ? at - step : at, next: at + step })
      from = at + step
    }
  }
  return lines
}

const encoder = new TextEncoder()

/** Bytes as text; a mark of the encoding at their beginning is left out. What is no text in it becomes �. */
export const decodedText = (bytes: Uint8Array, encoding: LineWay['encoding']): string => new TextDecoder(encoding).decode(bytes)

const delimiterOf = ({ delimiter }: LineWay) => (delimiter === 'tab' ? '\t' : delimiter)

const cellsOf = (text: string, way: LineWay): string[][] =>
  Papa.parse<string[]>(text, { delimiter: delimiterOf(way), skipEmptyLines: true }).data

/** The names of the columns that the first line of a file gives. */
export const headerOf = (line: string, way: LineWay): string[] => cellsOf(line, way)[0]?.map((name) => name.trim()) ?? []

/** One line as a message: of a CSV file an object with its cells by the names of their columns. */
export const lineMessage = (line: string, header: readonly string[] | null, way: LineWay): Payload => {
  if (way.form !== 'csv') return new Payload(encoder.encode(line))
  return Payload.of(encoder.encode(line), rowOf(cellsOf(line, way)[0] ?? [], header, way))
}

/** A file as one message: of CSV a list of its rows. */
export const fileMessage = (bytes: Uint8Array, way: LineWay): Payload => {
  const text = decodedText(bytes, way.encoding)
  if (way.form !== 'csv') return new Payload(encoder.encode(text))
  const all = cellsOf(text, way)
  const header = way.header ? (all.shift()?.map((name) => name.trim()) ?? []) : null
  return Payload.of(
    encoder.encode(text),
    all.map((cells) => rowOf(cells, header, way)),
  )
}

const rowOf = (cells: readonly string[], header: readonly string[] | null, way: LineWay): Record<string, unknown> =>
  Object.fromEntries(cells.map((cell, i) => [header?.[i] || `c${i + 1}`, cellValue(cell.trim(), way)]))

/** Numbers are numbers where nothing of what is written gets lost by that: codes like 007 stay text. */
const cellValue = (cell: string, { decimal }: LineWay): unknown => {
  if (cell === '') return null
  if (cell === 'true' || cell === 'false') return cell === 'true'
  const text = decimal === ',' ? cell.replace(',', '.') : cell
  if (!/^-?(0|[1-9]\d*)(\.\d+)?(e[+-]?\d+)?$/i.test(text)) return cell
  const number = Number(text)
  return Number.isInteger(number) && !Number.isSafeInteger(number) ? cell : number
}
