import type { WindowUnit } from '#core/equipment/windows'

const two = (value: number) => String(value).padStart(2, '0')

/** How the beginning of a window stands below its bar. */
export const windowLabel = (from: number, unit: WindowUnit): string => {
  const date = new Date(from)
  const day = `${two(date.getMonth() + 1)}-${two(date.getDate())}`
  switch (unit) {
    case 'second':
      return `${two(date.getHours())}:${two(date.getMinutes())}:${two(date.getSeconds())}`
    case 'minute':
    case 'hour':
      return `${two(date.getHours())}:${two(date.getMinutes())}`
    case 'day':
    case 'week':
      return day
    case 'month':
    case 'quarter':
      return `${date.getFullYear()}-${two(date.getMonth() + 1)}`
    case 'year':
      return String(date.getFullYear())
  }
}
