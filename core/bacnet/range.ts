import { mostInstance } from './objectId'

/** Numbers of devices, as in `4000-4099` or `4001`; null: it is neither. */
export const parseRange = (text: string): { low: number; high: number } | null => {
  const found = /^(\d{1,7})(?:\s*-\s*(\d{1,7}))?$/.exec(text.trim())
  if (!found) return null
  const low = Number(found[1])
  const high = Number(found[2] ?? found[1])
  return low <= high && high <= mostInstance ? { low, high } : null
}
