import { createHash } from 'node:crypto'

/** Hashes of the parts of something, hexadecimal, by their names. */
export type Parts = Readonly<Record<string, string>>

/** One digest over all parts, in whatever order they are named (SHA-256, hexadecimal). */
export const digestOfParts = (parts: Parts): string => {
  const lines = Object.entries(parts).map(([name, hash]) => `${name} ${hash}\n`)
  return createHash('sha256').update(lines.sort().join('')).digest('hex')
}

export interface TouchedPart {
  key: string
  what: 'added' | 'removed' | 'changed'
}

/** Which parts are others now than they were. */
export const touchedParts = (then: Parts, now: Parts): TouchedPart[] => {
  const keys = [...new Set([...Object.keys(then), ...Object.keys(now)])]
  return keys.flatMap((key) => {
    if (then[key] === now[key]) return []
    return {
      key,
      what: then[key] === undefined ? ('added' as const) : now[key] === undefined ? ('removed' as const) : ('changed' as const),
    }
  })
}
