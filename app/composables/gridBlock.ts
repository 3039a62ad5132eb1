/** A block of cells as spreadsheets put it on the clipboard: lines, with tabs between cells. */
export const blockText = (lines: readonly (readonly string[])[]): string =>
  lines.map((cells) => cells.map((cell) => (/[\t\n"]/.test(cell) ? `"${cell.replaceAll('"', '""')}"` : cell)).join('\t')).join('\n')

/** What a spreadsheet put there: quotes around cells that hold line breaks or tabs, and a line break behind the last line. */
export const blockOf = (text: string): string[][] => {
  const lines: string[][] = [[]]
  const cell = /(?:"((?:[^"]|"")*)"(?=[\t\r\n]|$)|([^\t\r\n]*))(\t|\r\n|\r|\n|$)/y
  while (cell.lastIndex <= text.length) {
    const found = cell.exec(text)
    if (!found) break
    const [, quoted, plain = '', end] = found
    lines.at(-1)!.push(quoted === undefined ? plain : quoted.replaceAll('""', '"'))
    if (end === '') break
    if (end !== '\t') lines.push([])
  }
  const last = lines.at(-1)!
  if (lines.length > 1 && last.every((text) => text === '')) lines.pop()
  return lines
}
