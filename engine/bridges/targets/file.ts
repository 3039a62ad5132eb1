import iconv from 'iconv-lite'
import { z } from 'zod'
import { fault, isFault } from '#core/faults/catalogue'
import { csvHeader, csvLine } from '#core/bridges/csvLine'
import { withSuffix } from '#core/bridges/fileName'
import type { Shaped } from '#core/bridges/parcel'
import type { CsvWay, Destination } from '#core/bridges/settings'
import { wayProblem } from '#core/files/settings'
import type { LineFolder, Verdict } from '../../links/receiving'
import { filePlace } from '../laps'
import { anything, thrown, type Handed, type Marks, type Surroundings, type Target } from './target'

type File = Extract<Destination, { kind: 'file' }>

/** How long files were before an attempt, so that the next one knows what of it was written. */
const marked = z.object({ key: z.string(), sizes: z.record(z.string(), z.number()) })

/** A file as a destination: each record is a line. */
export class FileTarget implements Target {
  /** Which of a series of files is written to. */
  private series = new Map<string, number>()

  constructor(
    private around: Surroundings,
    private destination: File,
    private bridge: number,
  ) {}

  async deliver({ fields, records, key }: Handed, marks: Marks): Promise<Verdict[]> {
    const verdicts = records.map(({ to }) => this.verdictOn(to[0] ?? ''))
    const sound = records.filter((_, i) => verdicts[i] === null)
    if (sound.length > 0) await this.write({ fields, records: sound, key }, marks)
    return verdicts
  }

  /** A name that a run came to may be none, however often it is tried. */
  private verdictOn(file: string): Verdict {
    const problem = wayProblem(file)
    return problem === null ? null : fault('bridge.fit', { field: `the name of the file (${file.slice(0, 80)})`, problem })
  }

  private async write({ fields, records, key }: Handed, marks: Marks) {
    const folder = this.folder()
    const files = byFile(await this.placed(folder, records))
    const before = await this.attempt(marks)
    const sizes = before?.key === key ? { ...before.sizes } : {}
    const others = [...files.keys()].filter((file) => sizes[file] === undefined)
    for (const file of others) sizes[file] = await folder.sizeOf(file)
    if (others.length > 0) await marks.set(JSON.stringify({ key, sizes }))
    for (const file of files.keys()) this.around.laps.writes(this.bridge, filePlace(this.destination.linkId, file))
    for (const [file, its] of files)
      await folder.append({ file, head: this.head(fields), lines: its.map((record) => this.line(record)), from: sizes[file]! })
  }

  types() {
    return Promise.resolve(this.destination.fields.map(() => anything))
  }

  preview({ fields, records }: Handed): Promise<string[]> {
    const { way } = this.destination
    const head = way.header ? [csvHeader(fields, way).trimEnd()] : []
    return Promise.resolve([...head, ...records.map(({ values }) => csvLine(values, way).trimEnd())])
  }

  /** Where a file is to have a size only, the first of its series that has not come to it. */
  private async placed(folder: LineFolder, records: readonly Shaped[]): Promise<readonly Shaped[]> {
    const { per, most } = this.destination
    if (per !== 'size') return records
    const open = new Map<string, string>()
    for (const { to } of records) {
      const name = to[0] ?? ''
      if (!open.has(name)) open.set(name, await this.openOf(folder, name, most * 1_000_000))
    }
    return records.map((record) => ({ ...record, to: [open.get(record.to[0] ?? '')!] }))
  }

  private async openOf(folder: LineFolder, name: string, most: number): Promise<string> {
    for (let at = this.series.get(name) ?? 1; ; at++) {
      this.series.set(name, at)
      const file = at === 1 ? name : withSuffix(name, String(at))
      if ((await folder.sizeOf(file)) < most) return file
    }
  }

  private async attempt(marks: Marks) {
    const text = await marks.get()
    if (text === undefined) return null
    const read = marked.safeParse(JSON.parse(text))
    return read.success ? read.data : null
  }

  private head(fields: readonly string[]): Uint8Array {
    const { way } = this.destination
    const text = `${isMarked(way) ? '\ufeff' : ''}${way.header ? csvHeader(fields, way) : ''}`
    return encoded(text, way)
  }

  private line({ values }: Shaped): Uint8Array {
    return encoded(csvLine(values, this.destination.way), this.destination.way)
  }

  private folder(): LineFolder {
    const link = this.around.link(this.destination.linkId)
    if (!link) throw thrown(fault('entry.gone', { thing: 'link', id: this.destination.linkId }))
    const receiver = link.receiver()
    if (isFault(receiver)) throw thrown(receiver)
    if (receiver.takes !== 'file') throw thrown(fault('bridge.no-receiver', { link: link.name, what: 'lines' }))
    return receiver
  }
}

const isMarked = ({ encoding }: CsvWay) => encoding === 'utf-8-bom' || encoding === 'utf-16le'

const encoded = (text: string, { encoding }: CsvWay): Uint8Array =>
  iconv.encode(text, encoding === 'utf-8-bom' ? 'utf-8' : encoding, { addBOM: false })

/** Records go into their files in their order. */
const byFile = (records: readonly Shaped[]): Map<string, Shaped[]> => {
  const files = new Map<string, Shaped[]>()
  for (const record of records) {
    const file = record.to[0] ?? ''
    const its = files.get(file)
    if (its) its.push(record)
    else files.set(file, [record])
  }
  return files
}
