import { decodedText, fileMessage, headerOf, lineMessage, linesIn } from '#core/bridges/lines'
import { nothingBut, type Occasion, type Source } from '#core/bridges/run'
import type { FileTrigger } from '#core/bridges/settings'
import { fault, type Fault } from '#core/faults/catalogue'
import type { Payload } from '#core/messages/payload'
import type { FoundFile, LineFolder } from '../../links/receiving'
import { headBytes, headOf, type Place, type Places } from './places'

/** So much is read at once; a line is shorter. */
const mostBytes = 1024 * 1024
/** A file that is taken as a whole is at most so large. */
const mostWhole = 16 * 1024 * 1024
/** So many lines are under way at a time. */
const mostLines = 500

interface Options {
  trigger: FileTrigger
  /** Which of the triggers of its bridge it is. */
  index: number
  /** Null: the link is not there, or off; what is wrong with it, it says itself. */
  folder(): LineFolder | null
  places: Places
  fire(occasion: Occasion): void
  /** What was taken up to here is kept, or came to nothing: it is not asked for again. */
  taken(source: Source): void
  tell(why: Fault): void
  /** It goes well again. */
  well(): void
}

/** What was seen of a file when it was looked at last. */
type Seen = Pick<FoundFile, 'identity' | 'size' | 'changedAt'>
const isSame = (a: Seen | undefined, b: Seen) =>
  a !== undefined && a.identity === b.identity && a.size === b.size && a.changedAt === b.changedAt

/** Looks into a folder again and again: each new line, or each new file, sets a bridge off once. */
export class FileWatch {
  private closed = false
  private seen = new Map<string, Seen>()
  private headers = new Map<string, string[]>()
  private passing = new Set<string>()
  private wake: () => void = () => {}
  private leave: () => void = () => {}
  /** Resolves when nobody waits for what is under way any more. */
  private left = new Promise<void>((resolve) => (this.leave = resolve))
  private running: Promise<void>

  constructor(private options: Options) {
    this.running = this.run()
  }

  async close() {
    this.closed = true
    this.leave()
    this.wake()
    await this.running
  }

  private async run() {
    while (!this.closed) {
      const began = performance.now()
      await this.look().then(
        () => this.options.well(),
        (error: unknown) => this.options.tell(asFault(error)),
      )
      // a folder that takes long to look into is looked into less often
      await this.pause(Math.max(this.options.trigger.every, (performance.now() - began) * 4))
    }
  }

  private pause(ms: number): Promise<void> {
    if (this.closed) return Promise.resolve()
    return new Promise((resolve) => {
      const timer = setTimeout(resolve, ms)
      this.wake = () => {
        clearTimeout(timer)
        resolve()
      }
    })
  }

  private async look() {
    const { places, trigger } = this.options
    const folder = this.options.folder()
    if (!folder) return
    await places.load()
    const files = await folder.list(trigger.files)
    if (places.isNew) {
      if (trigger.first === 'new') for (const file of files) if (!places.get(file.name)) await this.passOver(folder, file)
      await places.begin()
    }
    for (const file of files) {
      if (this.closed) return
      await (trigger.by === 'line' ? this.takeLines(folder, file) : this.takeWhole(folder, file))
    }
    this.forgetGone(files)
  }

  private forgetGone(files: readonly FoundFile[]) {
    if (this.seen.size <= files.length * 2 + 100) return
    const names = new Set(files.map(({ name }) => name))
    for (const name of this.seen.keys()) if (!names.has(name)) this.seen.delete(name)
  }

  /** What was there before the bridge was: of a line that is just being written the rest is left out as well. */
  private async passOver(folder: LineFolder, file: FoundFile) {
    const from = Math.max(0, file.size - mostBytes)
    const tail = await folder.read(file.name, from, file.size - from)
    const last = linesIn(tail, { form: 'text', encoding: this.options.trigger.encoding }).at(-1)
    const at = this.options.trigger.by === 'whole' ? file.size : from + (last?.next ?? 0)
    await this.options.places.set(file.name, await this.begun(folder, file, at))
  }

  /** Of another file than the one that had its name, if there was one. */
  private async begun(folder: LineFolder, file: FoundFile, at = 0): Promise<Place> {
    const before = this.options.places.get(file.name)
    const head = headOf(await folder.read(file.name, 0, Math.min(headBytes, at)))
    return { identity: file.identity, turn: (before?.turn ?? -1) + 1, at, head, changedAt: file.changedAt, seenAt: 0 }
  }

  private async takeWhole(folder: LineFolder, file: FoundFile) {
    const { places, trigger, tell } = this.options
    const known = places.get(file.name)
    if (known && known.identity === file.identity && known.at === file.size && known.changedAt === file.changedAt) return
    const isAtRest = isSame(this.seen.get(file.name), file)
    this.seen.set(file.name, file)
    if (!isAtRest || file.size === 0) return
    const place = await this.begun(folder, file, file.size)
    if (file.size > mostWhole) tell(fault('files.long-line', { file: file.name, most: '16 MB' }))
    else {
      const bytes = await folder.read(file.name, 0, file.size)
      const source = this.sourceOf(file.name, place.turn, file.size)
      if (!(await this.under(file.name, [{ payload: fileMessage(bytes, trigger), source }]))) return
    }
    await places.set(file.name, place)
    this.options.taken(this.sourceOf(file.name, place.turn, file.size))
  }

  private async takeLines(folder: LineFolder, file: FoundFile) {
    if (isSame(this.seen.get(file.name), file)) return
    let place = await this.placeOf(folder, file)
    while (!this.closed) {
      const next = await this.takeSome(folder, file.name, place)
      if (next === null) return
      if (next.at === place.at) break
      place = next
    }
    this.seen.set(file.name, file)
  }

  /** Where it goes on; at the beginning where it is another file than the one that had its name. */
  private async placeOf(folder: LineFolder, file: FoundFile): Promise<Place> {
    const { places } = this.options
    const known = places.get(file.name)
    if (known && known.identity === file.identity && file.size >= known.at && (await this.beginsAs(folder, file, known))) return known
    this.headers.delete(file.name)
    const renamed = places.renamed(file)
    if (renamed && file.size >= renamed.place.at && (await this.beginsAs(folder, file, renamed.place)))
      return { ...renamed.place, turn: (known?.turn ?? -1) + 1 }
    return this.begun(folder, file)
  }

  private async beginsAs(folder: LineFolder, file: FoundFile, { head, at }: Place): Promise<boolean> {
    return at === 0 || headOf(await folder.read(file.name, 0, Math.min(headBytes, at))) === head
  }

  /** Takes the next lines; null: it was closed meanwhile. */
  private async takeSome(folder: LineFolder, name: string, place: Place): Promise<Place | null> {
    const { trigger, places } = this.options
    const bytes = await folder.read(name, place.at, mostBytes)
    const lines = linesIn(bytes, trigger).slice(0, mostLines)
    if (lines.length === 0) return bytes.length < mostBytes ? place : this.passLong(name, place, bytes.length)
    const wanted = this.passing.delete(name) ? lines.slice(1) : lines
    const header = await this.headerFor(folder, name)
    const messages = wanted.flatMap(({ from, to, next }) => {
      const isHeader = place.at === 0 && from === 0 && header !== null
      const text = decodedText(bytes.subarray(from, to), trigger.encoding)
      if (isHeader || text.trim() === '') return []
      return [{ payload: lineMessage(text, header, trigger), source: this.sourceOf(name, place.turn, place.at + next) }]
    })
    if (!(await this.under(name, messages))) return null
    const at = place.at + lines.at(-1)!.next
    const head = place.at >= headBytes ? place.head : headOf(await folder.read(name, 0, Math.min(headBytes, at)))
    await places.set(name, { ...place, at, head })
    this.options.taken(this.sourceOf(name, place.turn, at))
    return { ...place, at, head }
  }

  /** A line without an end in sight: it is passed over, up to where the next one begins. */
  private async passLong(name: string, place: Place, length: number): Promise<Place> {
    if (!this.passing.has(name)) this.options.tell(fault('files.long-line', { file: name, most: '1 MB' }))
    this.passing.add(name)
    const next = { ...place, at: place.at + length - (length % 2) }
    await this.options.places.set(name, next)
    return next
  }

  private async headerFor(folder: LineFolder, name: string): Promise<string[] | null> {
    const { trigger } = this.options
    if (trigger.form !== 'csv' || !trigger.header) return null
    const known = this.headers.get(name)
    if (known) return known
    const bytes = await folder.read(name, 0, 64 * 1024)
    const [first] = linesIn(bytes, trigger)
    const header = first ? headerOf(decodedText(bytes.subarray(0, first.to), trigger.encoding), trigger) : []
    this.headers.set(name, header)
    return header
  }

  private sourceOf(name: string, turn: number, at: number): Source {
    const { linkId, by } = this.options.trigger
    return { key: `${linkId} ${by} ${turn} ${name}`, at }
  }

  /** Sets the bridge off with each; false: it was closed before all of it was kept. */
  private async under(name: string, messages: readonly { payload: Payload; source: Source }[]): Promise<boolean> {
    const { fire, index } = this.options
    const all = messages.map(
      ({ payload, source }) =>
        new Promise<void>((settled) =>
          fire({ ...nothingBut('clock', index, Date.now()), by: 'file', topic: name, payload, source, settled: () => settled() }),
        ),
    )
    await Promise.race([Promise.all(all), this.left])
    return !this.closed
  }
}

const asFault = (error: unknown): Fault => {
  if (typeof error === 'object' && error !== null && 'side' in error) return error as Fault
  return fault('bridge.spool', { problem: (error as Error).message })
}
