import type pg from 'pg'
import type { HistoryKeeping } from '#core/history/settings'
import { dropPart, measuredParts, shelves, type MeasuredPart, type Shelf } from '#db/history/parts'

type Connection = Pick<pg.ClientBase, 'query'>

const dayMs = 86_400_000
const gigabyte = 1e9

/** What is too old, and then the oldest of what is too much; never what is being written to. */
export const partsToDrop = (parts: readonly MeasuredPart[], keeping: HistoryKeeping, now: number): MeasuredPart[] => {
  const isOver = (part: MeasuredPart) => part.to <= now - (keeping[part.shelf] ?? Infinity) * dayMs
  const tooOld = parts.filter(isOver)
  if (keeping.mostGb === null) return tooOld
  const left = parts.filter((part) => !tooOld.includes(part))
  const tooMuch = left.reduce((sum, { bytes }) => sum + bytes, 0) - keeping.mostGb * gigabyte
  return [...tooOld, ...partsGivingWay(left, tooMuch, now)]
}

/** The oldest that go so that so many bytes are free. */
const partsGivingWay = (parts: readonly MeasuredPart[], bytes: number, now: number): MeasuredPart[] => {
  const inOrder = parts.filter(({ to }) => to <= now).sort((a, b) => rank(a.shelf) - rank(b.shelf) || a.from - b.from)
  const giveWay: MeasuredPart[] = []
  for (let left = bytes; left > 0 && inOrder.length > 0; left -= giveWay.at(-1)!.bytes) giveWay.push(inOrder.shift()!)
  return giveWay
}

/** Where the disk is short: what is single goes; what was made of it is small, and stays. */
export const partsForRoom = (parts: readonly MeasuredPart[], bytes: number, now: number): MeasuredPart[] =>
  partsGivingWay(
    parts.filter(({ shelf }) => shelf === 'sample' || shelf === 'second'),
    bytes,
    now,
  )

/** Single samples go before what was made of them. */
const rank = (shelf: Shelf) => shelves.indexOf(shelf)

/** Drops what is no longer to be kept. @returns what went */
export const keepWithin = async (db: Connection, keeping: HistoryKeeping, now: number): Promise<MeasuredPart[]> => {
  return dropped(db, partsToDrop(await measuredParts(db), keeping, now))
}

/** Drops what gives way so that so many bytes are free. @returns what went */
export const makeRoom = async (db: Connection, bytes: number, now: number): Promise<MeasuredPart[]> =>
  dropped(db, partsForRoom(await measuredParts(db), bytes, now))

const dropped = async (db: Connection, parts: MeasuredPart[]) => {
  for (const part of parts) await dropPart(db, part)
  return parts
}
