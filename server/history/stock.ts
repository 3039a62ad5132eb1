import { keepingContract } from '#core/history/settings'
import { shelves, type MeasuredPart } from '#db/history/parts'
import type { HistoryStock } from '#shared/history'

const dayMs = 86_400_000
/** The pace is that of the last days. */
const paceMs = 3 * dayMs

/** What is there of each shelf, and what it will come to at the pace of the last days. */
export const stockOf = (parts: readonly MeasuredPart[], keeping: HistoryStock['keeping'], late: number, now: number): HistoryStock => {
  const all = shelves.map((shelf) => {
    const mine = parts.filter((part) => part.shelf === shelf)
    const bytes = sum(mine.map((part) => part.bytes))
    const days = keeping[shelf]
    const pace = bytesPerDay(mine, now)
    return {
      ...{ shelf, bytes, rows: sum(mine.map(({ rows }) => rows)), from: mine[0]?.from ?? null },
      expectedBytes: pace === null || days === null ? null : Math.max(bytes, pace * days),
    }
  })
  const bytes = sum(all.map((one) => one.bytes))
  const expected = all.filter(({ shelf }) => keeping[shelf] !== null).map(({ expectedBytes }) => expectedBytes)
  const most = keeping.mostGb === null ? Infinity : keeping.mostGb * 1e9
  const expectedBytes = expected.includes(null) ? null : Math.min(most, sum(expected as number[]))
  return { keeping: keepingContract.parse(keeping), shelves: all, bytes, expectedBytes, late }
}

const bytesPerDay = (parts: readonly MeasuredPart[], now: number): number | null => {
  const since = now - paceMs
  let [bytes, days] = [0, 0]
  for (const { from, to, bytes: size } of parts) {
    const until = Math.min(to, now)
    if (until <= since || until <= from) continue
    bytes += size
    days += (until - from) / dayMs
  }
  return days > 0.01 ? bytes / days : null
}

const sum = (values: readonly number[]) => values.reduce((total, value) => total + value, 0)
