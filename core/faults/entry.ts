/** Whose side a fault is on. */
export type Side = 'entry' | 'here' | 'network' | 'device' | 'consumer'

export interface Entry<E> {
  side: Side
  what: (e: E) => string
  next: (e: E) => string
}

/** One fault of the catalogue: whose side it is on, what failed, and what to do, from the evidence. */
export const entry = <E = Record<string, never>>(side: Side, what: Entry<E>['what'], next: Entry<E>['next']): Entry<E> => ({
  side,
  what,
  next,
})

export interface Peer {
  host: string
  port: number
}
