import { createRequire } from 'node:module'
import PDFDocument from 'pdfkit'
import type { ReportTexts } from '#core/checks/report'

/** A report as PDF (ISO 32000): A4 across, rows that are never broken, heads on each page. Fonts are in the file. */

const margin = 36
/** Shares of the width: point, from, expected, seen, outcome, who, remark. */
const columns = [0.2, 0.19, 0.09, 0.09, 0.15, 0.14, 0.14]
const evidenceColumns = [0.2, 0.5, 0.3]
const padding = 4
const size = 7.5

type Pdf = InstanceType<typeof PDFDocument>

export const reportPdf = (texts: ReportTexts, madeAt: number): Promise<Uint8Array> => {
  const { title, intro, head, rows, evidence, signed, footer } = texts
  const doc = new PDFDocument({
    size: 'A4',
    layout: 'landscape',
    margin,
    bufferPages: true,
    info: { Title: title, CreationDate: new Date(madeAt) },
  })
  const whole = bytesOf(doc)
  const { resolve } = createRequire(import.meta.url)
  doc.registerFont('plain', resolve('dejavu-fonts-ttf/ttf/DejaVuSans.ttf'))
  doc.registerFont('strong', resolve('dejavu-fonts-ttf/ttf/DejaVuSans-Bold.ttf'))
  doc.font('strong').fontSize(14).text(title)
  doc.font('plain').fontSize(9)
  for (const text of intro) doc.moveDown(0.4).text(text)
  doc.moveDown(1)
  const table = new Table(doc, columns, head)
  for (const { cells, state } of rows) table.row(cells, state === 'good' ? 'plain' : 'strong')
  if (evidence.length > 0) heading(doc, 'Evidence', 12)
  for (const one of evidence) {
    heading(doc, one.title, 8)
    const table = new Table(doc, evidenceColumns, [])
    for (const cells of one.rows) table.row(cells)
  }
  signatures(doc, signed)
  doc
    .font('plain')
    .fontSize(7)
    .text(footer, margin, doc.y, { width: widthOf(doc) })
  numberPages(doc, title)
  doc.end()
  return whole
}

const bytesOf = (doc: Pdf): Promise<Uint8Array> =>
  new Promise((resolve, reject) => {
    const parts: Uint8Array[] = []
    doc.on('data', (part: Uint8Array) => parts.push(part))
    doc.on('end', () => resolve(new Uint8Array(Buffer.concat(parts))))
    doc.on('error', reject)
  })

const widthOf = (doc: Pdf) => doc.page.width - 2 * margin
const endOf = (doc: Pdf) => doc.page.height - margin - 14

/** Goes on at the next page where so much has no room. */
const roomFor = (doc: Pdf, height: number): boolean => {
  if (doc.y + height <= endOf(doc)) return false
  doc.addPage()
  return true
}

class Table {
  constructor(
    private doc: Pdf,
    private shares: readonly number[],
    private head: readonly string[],
  ) {
    if (head.length > 0) this.drawHead()
  }

  /** @param emphasis how the outcome is written */
  row(cells: readonly string[], emphasis: 'plain' | 'strong' = 'plain') {
    // a cell that is longer than a page is cut: it would be no row any more
    const height = Math.min(this.heightOf(cells), endOf(this.doc) - margin - 40)
    if (roomFor(this.doc, height) && this.head.length > 0) this.drawHead()
    this.draw(cells, height, 'plain', emphasis)
  }

  private drawHead() {
    this.draw(this.head, this.heightOf(this.head), 'strong', 'strong')
  }

  private heightOf(cells: readonly string[]): number {
    this.doc.font('plain').fontSize(size)
    return 2 * padding + Math.max(...cells.map((text, i) => this.doc.heightOfString(text || ' ', { width: this.widthOf(i) })))
  }

  private widthOf(column: number) {
    return this.shares[column]! * widthOf(this.doc) - 2 * padding
  }

  private draw(cells: readonly string[], height: number, font: string, outcome: string) {
    const { doc } = this
    const top = doc.y
    let left = margin
    cells.forEach((text, i) => {
      doc.font(i === outcomeColumn ? outcome : font).fontSize(size)
      doc.text(text, left + padding, top + padding, { width: this.widthOf(i), height: height - 2 * padding, ellipsis: true })
      left += this.shares[i]! * widthOf(doc)
    })
    doc
      .moveTo(margin, top + height)
      .lineTo(margin + widthOf(doc), top + height)
      .lineWidth(0.4)
      .stroke('#b9c4c4')
    doc.x = margin
    doc.y = top + height
  }
}

const outcomeColumn = 4

const heading = (doc: Pdf, text: string, points: number) => {
  roomFor(doc, 60)
  doc
    .font('strong')
    .fontSize(points)
    .text(text, margin, doc.y + 8, { width: widthOf(doc) })
  doc.moveDown(0.3)
}

const signatures = (doc: Pdf, signed: readonly string[]) => {
  roomFor(doc, 90)
  const top = doc.y + 50
  const width = widthOf(doc) / signed.length
  signed.forEach((who, i) => {
    const left = margin + i * width
    doc
      .moveTo(left, top)
      .lineTo(left + width - 24, top)
      .lineWidth(0.6)
      .stroke('#1c2b2d')
    doc
      .font('plain')
      .fontSize(8)
      .text(who, left, top + 4, { width: width - 24 })
  })
  doc.x = margin
  doc.y = top + 24
}

const numberPages = (doc: Pdf, title: string) => {
  const { start, count } = doc.bufferedPageRange()
  for (let i = start; i < start + count; i++) {
    doc.switchToPage(i)
    // below the margin, where text would begin another page
    doc.page.margins.bottom = 0
    doc.font('plain').fontSize(7)
    doc.text(`${title} · page ${i + 1} of ${count}`, margin, doc.page.height - margin - 4, {
      width: widthOf(doc),
      align: 'right',
      lineBreak: false,
    })
  }
}
