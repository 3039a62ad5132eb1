import type { Difference } from '../configuration/site'

type Parts = Difference['parts']

/** A difference as this machine sees it: what is placed on it is placed here. */
export const placedHere = (difference: Difference, own: number | null): Difference => {
  const { link, outlet, bridge } = difference.parts
  if (own === null) return difference
  const placed = { link: hereOf(link, own), outlet: hereOf(outlet, own), bridge: hereOf(bridge, own) } as Pick<
    Parts,
    'link' | 'outlet' | 'bridge'
  >
  return { ...difference, parts: { ...difference.parts, ...placed } }
}

const hereOf = <T extends { nodeId: number | null }>(part: { set: readonly T[]; removed: readonly number[] }, own: number) => ({
  ...part,
  set: part.set.map((one) => (one.nodeId === own ? { ...one, nodeId: null } : one)),
})
