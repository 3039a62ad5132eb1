import { grouped } from '../lists/grouped'
import { runsOf, type Block } from '../links/planner'
import { answerRoom, dataHead, roomIn } from './pdu'
import type { IsoPoint, Row } from './point'

/** Points of one row that are read as one piece of a request. */
export interface PlannedPiece<T extends IsoPoint> extends Block<T> {
  row: Row
}

/** A part of a piece that goes into one request: nearly always the whole of it. */
export interface PlannedPart<T extends IsoPoint> {
  piece: PlannedPiece<T>
  /** Bytes from the beginning of the piece. */
  from: number
  bytes: number
}

export interface IsoLimits {
  /** Bytes of a request or an answer. */
  size: number
  /** Bytes that nobody asked for and that are read to save a piece. */
  readAcross: number
  /** Offsets that a row was seen not to be read across. */
  fences(row: string): readonly number[]
}

/** A run is not cut for less than this, bytes. */
const leastBegun = 32

export const bytesIn = ({ count, row }: Pick<PlannedPiece<IsoPoint>, 'count' | 'row'>) => count * row.width

/**
 * The requests that fetch these points. Per block or area the points make runs, across small gaps; then
 * each request is filled: a run that does not fit goes on in the next one. A point that is longer than a request stands
 * alone, and is read in parts.
 */
export const planRequests = <T extends IsoPoint>(points: Iterable<T>, limits: IsoLimits): PlannedPart<T>[][] => {
  const filling = new Filling<T>(limits.size)
  for (const [key, ofRow] of grouped(points, ({ row }) => row.key)) {
    const { row } = ofRow[0]!
    const isLong = (point: T) => bytesIn({ count: point.count, row }) > filling.most
    for (const point of ofRow.filter(isLong)) filling.addLong({ row, offset: point.offset, count: point.count, items: [point] })
    const runs = runsOf(
      ofRow.filter((point) => !isLong(point)),
      { requestCost: limits.readAcross, fences: limits.fences(key) },
    )
    for (const run of runs) filling.addRun({ ...run, row })
  }
  return filling.requests
}

/** Fills one request after the other. */
class Filling<T extends IsoPoint> {
  readonly requests: PlannedPart<T>[][] = []
  /** Bytes that one piece may have: an even number, so that timers and counters are not cut. */
  readonly most: number
  private current: PlannedPart<T>[] = []
  private room = 0
  private pieces: number

  constructor(private size: number) {
    this.most = roomIn(size).read & ~1
    this.pieces = roomIn(size).pieces
  }

  addLong(piece: PlannedPiece<T>) {
    for (let from = 0; from < bytesIn(piece); from += this.most)
      this.add({ piece, from, bytes: Math.min(this.most, bytesIn(piece) - from) })
  }

  addRun({ row, items, offset, count: length }: PlannedPiece<T>) {
    let first = 0
    while (first < items.length) {
      const rest = offset + length - items[first]!.offset
      const room = this.roomFor(rest * row.width)
      const { next, count } = fitting(items, first, Math.floor(room / row.width))
      const piece = { row, offset: items[first]!.offset, count, items: items.slice(first, next) }
      this.add({ piece, from: 0, bytes: bytesIn(piece) })
      first = next
    }
  }

  /** What the request at hand has left for data, or the next one where that is too little to cut a run for. */
  private roomFor(bytes: number): number {
    const left = this.current.length >= this.pieces ? 0 : (this.room - dataHead) & ~1
    return left >= Math.min(bytes, leastBegun) ? Math.min(left, this.most) : this.begin()
  }

  private add(part: PlannedPart<T>) {
    const needs = answerRoom(part.bytes)
    if (this.current.length >= this.pieces || this.room < needs) this.begin()
    this.current.push(part)
    this.room -= needs
  }

  /** @returns what a piece may have in it */
  private begin(): number {
    this.current = []
    this.requests.push(this.current)
    this.room = roomIn(this.size).answer
    return this.most
  }
}

/** As many points from the first on as lie within so many elements; at least one, for it fits into a request. */
const fitting = (items: readonly IsoPoint[], first: number, most: number) => {
  const start = items[first]!.offset
  let count = items[first]!.count
  let next = first + 1
  for (; next < items.length; next++) {
    const end = Math.max(count, items[next]!.offset + items[next]!.count - start)
    if (end > most) break
    count = end
  }
  return { next, count }
}
