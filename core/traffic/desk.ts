import { readCapture, type Packet } from './capture/blocks'
import { CaptureReader, type Found } from './capture/streams'
import { allFrames, isEverything, type FrameFilter } from './filter'
import { FrameBook, type BookLimits, type FrameConnection, type FrameRow, type OpenedFrame, type PassedFrame } from './frameBook'
import { NumberList } from './numberList'
import { savedFrames, type SavedForm } from './saved'
import { TriggerWatch, type Trigger, type TriggerState } from './trigger'

export interface DeskState {
  /** The number that the next frame gets; those before `first` made room. */
  first: number
  end: number
  bytes: number
  limits: BookLimits
  /** Frames that the filter lets through. */
  shown: number
  /** How far the filter, or a file, was looked through, 0 to 1. */
  done: number
  trigger: TriggerState | null
  /** Of a file. */
  found: Found | null
  problem: string | null
}

interface Opened {
  packets: Packet[]
  at: number
  reader: CaptureReader
}

/** So many frames are looked through between two glances at the clock. */
const stride = 500
/** What is without an answer shows only later: how often a filter for that begins anew, ms. */
const againMs = 2000

/**
 * Where frames are laid out: live ones or those of a file, through a filter, behind a trigger. Long work is done a little at
 * a time by whoever calls `work`.
 */
export class TrafficDesk {
  private book: FrameBook
  private filter: FrameFilter = allFrames
  private shown = new NumberList()
  /** Where what is found goes: the same, or what takes its place once all was looked through again. */
  private building = this.shown
  private looked = 0
  /** When looking began anew, and how many frames there were. */
  private lookedAt = { moment: 0, end: 0 }
  private watch: TriggerWatch | null = null
  private opened: Opened | null = null
  private found: Found | null = null
  private problem: string | null = null

  constructor(private limits: BookLimits) {
    this.book = new FrameBook(limits)
  }

  connect(connections: readonly FrameConnection[]) {
    for (const connection of connections) this.book.connect(connection)
  }

  add(frames: readonly PassedFrame[]) {
    for (const frame of frames) {
      if (this.watch && !this.watch.takes(frame.at)) continue
      const n = this.book.add(frame)
      this.watch?.added(n, frame.at)
    }
  }

  setFilter(filter: FrameFilter) {
    this.filter = filter
    this.lookAgain()
  }

  /** Waits for something; null: all is taken. What passed before stays. */
  arm(trigger: Trigger | null) {
    this.watch = trigger ? new TriggerWatch(trigger, this.book) : null
  }

  /** What was waited for happened elsewhere. */
  caught(at: number) {
    this.watch?.catch(at)
  }

  clear() {
    this.book.clear()
    this.lookAgain()
  }

  /** For frames of somebody else. */
  renew() {
    this.book = new FrameBook(this.limits)
    this.watch = this.opened = this.found = this.problem = null
    this.lookAgain()
  }

  /** A file in place of all that is here. @param kind as which it is read; null: as what it seems to be */
  openFile(bytes: Uint8Array, kind: string | null) {
    const { packets, problem } = readCapture(bytes)
    this.renew()
    this.problem = problem
    const reader = new CaptureReader(kind)
    this.found = reader.found
    this.opened = { packets, at: 0, reader }
  }

  /** Goes on for so long. @returns whether something is left to do */
  work(ms: number): boolean {
    const end = performance.now() + ms
    if (this.opened) this.readOn(this.opened, end)
    if (this.looked === this.book.end && this.mayHaveChanged()) this.lookAgain(true)
    while (this.looked < this.book.end && performance.now() < end) {
      const to = Math.min(this.book.end, Math.max(this.looked, this.book.first) + stride)
      for (const n of this.book.passing(this.filter, this.looked, to)) this.building.push(n)
      this.looked = to
    }
    if (this.looked === this.book.end) this.shown = this.building
    return this.opened !== null || this.looked < this.book.end
  }

  state(): DeskState {
    const { book, opened, found, problem, limits } = this
    this.shown.dropBefore(book.first)
    const reading = opened ? opened.at / Math.max(1, opened.packets.length) : 1
    const filtering = book.count === 0 ? 1 : Math.max(0, this.looked - book.first) / book.count
    return {
      ...{ first: book.first, end: book.end, bytes: book.size, limits, shown: this.shown.length },
      ...{ done: Math.min(reading, filtering), trigger: this.watch?.state ?? null, found, problem },
    }
  }

  connections(): FrameConnection[] {
    return this.book.known
  }

  /** Of those that are shown, so many from one on. */
  rows(from: number, count: number): FrameRow[] {
    this.shown.dropBefore(this.book.first)
    return this.shown.slice(from, from + count).flatMap((n) => this.book.row(n) ?? [])
  }

  /** The place of a frame among those that are shown; the next one's, where it is not. */
  placeOf(n: number): number {
    return this.shown.placeOf(n)
  }

  open(n: number): OpenedFrame | null {
    return this.book.open(n)
  }

  /** What is shown, as a file. */
  save(form: SavedForm, name: string): Uint8Array[] {
    const numbers = isEverything(this.filter) ? range(this.book.first, this.book.end) : this.shown.slice(0, this.shown.length)
    return [...savedFrames(this.book, numbers, form, name)]
  }

  /** Who is without an answer may have one meanwhile, and who just asked may be without one. */
  private mayHaveChanged(): boolean {
    const { outcome } = this.filter
    if (outcome !== 'unanswered' && outcome !== 'trouble') return false
    return this.book.end !== this.lookedAt.end && performance.now() - this.lookedAt.moment > againMs
  }

  /** @param isSameFilter what was found before stays in view until all was looked through */
  private lookAgain(isSameFilter = false) {
    this.building = new NumberList()
    if (!isSameFilter) this.shown = this.building
    this.looked = this.book.first
    this.lookedAt = { moment: performance.now(), end: this.book.end }
  }

  private readOn(opened: Opened, end: number) {
    const { packets, reader } = opened
    while (opened.at < packets.length && performance.now() < end) {
      const to = Math.min(packets.length, opened.at + stride)
      for (; opened.at < to; opened.at++) this.take(reader, reader.take(packets[opened.at]!))
    }
    if (opened.at < packets.length) return
    this.take(reader, reader.end((packets.at(-1)?.micros ?? 0) / 1000))
    this.opened = null
  }

  private take(reader: CaptureReader, frames: readonly PassedFrame[]) {
    if (frames.length === 0) return
    this.connect(reader.connections())
    this.add(frames)
  }
}

function* range(from: number, to: number): Generator<number> {
  for (let n = from; n < to; n++) yield n
}
