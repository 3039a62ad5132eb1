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
  let tooMuch = left.reduce((sum, { bytes }) => sum + bytes, 0) - keeping.mostGb * gigabyte
  const inOrder = left.filter(({ to }) => to <= now).sort((a, b) => rank(a.shelf) - rank(b.shelf) || a.from - b.from)
  const giveWay: MeasuredPart[] = []
  for (const part of inOrder) {
    if (tooMuch <= 0) break
    tooMuch -= part.bytes
    giveWay.push(part)
  }
  return [...tooOld, ...giveWay]
}

/** Single samples go before what was made of them. */
const rank = (shelf: Shelf) => shelves.indexOf(shelf)

/** Drops what is no longer to be kept. @returns what went */
export const keepWithin = async (db: Connection, keeping: HistoryKeeping, now: number): Promise<MeasuredPart[]> => {
  const parts = partsToDrop(await measuredParts(db), keeping, now)
  for (const part of parts) await dropPart(db, part)
  return parts
}
