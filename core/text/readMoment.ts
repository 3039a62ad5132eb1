const written = /^(\d{4})-(\d\d)-(\d\d)(?:[ T](\d\d):(\d\d)(?::(\d\d))?)?$/

/** A moment as `momentText` writes it, by this machine’s clock: `2026-11-25 14:06`, with seconds or without a time; null: it is none. */
export const readMoment = (text: string): number | null => {
  const match = written.exec(text.trim())
  if (!match) return null
  const [year, month, day, hour = 0, minute = 0, second = 0] = match.slice(1).map((part) => (part === undefined ? undefined : Number(part)))
  const date = new Date(year!, month! - 1, day!, hour, minute, second)
  const isReal = date.getMonth() === month! - 1 && date.getDate() === day! && hour < 24 && minute < 60 && second < 60
  return isReal ? date.getTime() : null
}

const units: Record<string, number> = { ms: 1, s: 1000, min: 60_000, h: 3_600_000, d: 86_400_000, w: 7 * 86_400_000, y: 365 * 86_400_000 }
const part = /(\d+(?:[.,]\d+)?)\s*(ms|s|min|h|d|w|y)(?![a-z])/gy

/** A span of time as a person writes it: `90 s`, `6 h`, `1 h 30 min`, `3 d`, `2 w`, `1 y`; milliseconds, or null where it is none. */
export const readSpan = (text: string): number | null => {
  const trimmed = text.trim().toLowerCase()
  part.lastIndex = 0
  let [total, end] = [0, 0]
  for (;;) {
    while (trimmed[part.lastIndex] === ' ') part.lastIndex++
    const match = part.exec(trimmed)
    if (!match) break
    total += Number(match[1]!.replace(',', '.')) * units[match[2]!]!
    end = part.lastIndex
  }
  return end > 0 && end === trimmed.length ? Math.round(total) : null
}
