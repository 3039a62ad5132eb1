/** How far clocks on the wall are ahead of UTC. */

const formats = new Map<string, Intl.DateTimeFormat>()
const formatOf = (zone: string): Intl.DateTimeFormat => {
  const known = formats.get(zone)
  if (known) return known
  const format = new Intl.DateTimeFormat('en-US', {
    ...{ timeZone: zone, hourCycle: 'h23', era: 'short' },
    ...{ year: 'numeric', month: 'numeric', day: 'numeric', hour: 'numeric', minute: 'numeric', second: 'numeric' },
  })
  formats.set(zone, format)
  return format
}

/** Clocks are put on at quarters of an hour only; what was found out for one is kept. */
const quarterMs = 900_000
const mostKept = 20_000
const kept = new Map<string, number>()

/** Milliseconds that the clocks of a zone are ahead of UTC at a moment. @param zone as the time zone database calls it: `Europe/Oslo` */
export const offsetAt = (zone: string, at: number): number => {
  if (zone === 'UTC') return 0
  const quarter = Math.floor(at / quarterMs)
  const key = `${zone} ${quarter}`
  const known = kept.get(key)
  if (known !== undefined) return known
  if (kept.size >= mostKept) kept.clear()
  const offset = asked(zone, quarter * quarterMs)
  kept.set(key, offset)
  return offset
}

const asked = (zone: string, at: number): number => {
  const parts: Record<string, string> = {}
  for (const { type, value } of formatOf(zone).formatToParts(at)) parts[type] = value
  const year = parts.era === 'BC' ? 1 - Number(parts.year) : Number(parts.year)
  const wall = new Date(0)
  wall.setUTCFullYear(year, Number(parts.month) - 1, Number(parts.day))
  wall.setUTCHours(Number(parts.hour), Number(parts.minute), Number(parts.second), 0)
  return wall.getTime() - Math.floor(at / 1000) * 1000
}

let own: string | null = null

/** The clock of this machine, as it was when the process began: to ask for it takes longer than to work out a window. */
export const ownZone = () => (own ??= Intl.DateTimeFormat().resolvedOptions().timeZone || 'UTC')
