import Papa from 'papaparse'

/** One record of a CSV file (RFC 4180, 2), and the line on which it starts, from 1. */
export interface CsvRecord {
  line: number
  cells: string[]
}

/** What makes a text no table at all; line and column count from 1, the column in cells. */
export class UnreadableCsv extends Error {
  constructor(
    readonly line: number,
    readonly column: number,
    readonly problem: string,
  ) {
    super(`line ${line}, column ${column}: ${problem}`)
  }
}

/** So many characters are read in one go: a few milliseconds’ work. */
const usualPiece = 128 * 1024
/** A cell that goes on for longer is a quote that somebody forgot. */
const longestPiece = 2 * 1024 * 1024

/** Ends of lines as one character, so that nothing hangs on who wrote them. */
export const withPlainLines = (text: string): string => (text.includes('\r') ? text.replace(/\r\n?/g, '\n') : text)

/**
 * The records of a CSV text whose lines end with `\n`, a piece at a time, so that others get their turn between two
 * pieces. Empty lines are left out. Quotes that do not fit end it: UnreadableCsv.
 *
 * @param pieceLength characters in a piece, for tests
 */
export function* recordsOf(text: string, delimiter: string, pieceLength = usualPiece): Generator<CsvRecord[]> {
  let line = 1
  let want = pieceLength
  for (let at = 0; at < text.length;) {
    const end = endOfPiece(text, at, want)
    const piece = parsed(text.slice(at, end), delimiter)
    if (piece.isOpen && at + want < text.length && want < longestPiece) {
      // a field goes on over the cut: the same again with more
      want *= 2
      continue
    }
    yield numbered(piece, line)
    line += linesIn(text, at, end)
    at = end + 1
    want = pieceLength
  }
}

/** Where a piece ends: before the end of a line, or with the text. */
const endOfPiece = (text: string, at: number, want: number): number => {
  if (at + want >= text.length) return text.endsWith('\n') ? Math.max(at, text.length - 1) : text.length
  const before = text.lastIndexOf('\n', at + want)
  if (before >= at) return before
  const after = text.indexOf('\n', at)
  return after < 0 ? text.length : after
}

interface Piece {
  data: string[][]
  isOpen: boolean
  /** The record in which something stands behind a closing quote. */
  badRow: number | null
}

const parsed = (text: string, delimiter: string): Piece => {
  const { data, errors } = Papa.parse<string[]>(text, { delimiter, newline: '\n', fastMode: false })
  return {
    data,
    isOpen: errors.some(({ code }) => code === 'MissingQuotes'),
    badRow: errors.find(({ code }) => code === 'InvalidQuotes')?.row ?? null,
  }
}

const numbered = ({ data, isOpen, badRow }: Piece, firstLine: number): CsvRecord[] => {
  const records: CsvRecord[] = []
  let line = firstLine
  data.forEach((cells, row) => {
    if (row === badRow)
      throw new UnreadableCsv(line, cells.length, 'something stands behind a closing quote; a quote within quotes is doubled.')
    if (isOpen && row === data.length - 1) throw new UnreadableCsv(line, cells.length, 'a quote is opened and closed nowhere.')
    if (cells.length > 1 || cells[0] !== '') records.push({ line, cells })
    line++
    for (const cell of cells) line += linesIn(cell, 0, cell.length)
  })
  return records
}

/** How many lines end between two places; a piece that ends before the end of a line counts that as well. */
const linesIn = (text: string, from: number, to: number): number => {
  let lines = 0
  for (let at = text.indexOf('\n', from); at >= 0 && at <= to; at = text.indexOf('\n', at + 1)) lines++
  return lines
}

/** The first records, for whoever has to find out how the text is written. */
export const firstRecords = (text: string, delimiter: string, most: number): string[][] =>
  Papa.parse<string[]>(text, { delimiter, newline: '\n', fastMode: false, preview: most }).data.filter(
    (cells) => cells.length > 1 || cells[0] !== '',
  )
