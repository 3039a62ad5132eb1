import type { Difference } from '../configuration/site'

/** A difference as this machine sees it: links that are placed on it are placed here. */
export const placedHere = (difference: Difference, own: number | null): Difference => {
  const { link } = difference.parts
  if (own === null || !link.set.some(({ nodeId }) => nodeId === own)) return difference
  const set = link.set.map((one) => (one.nodeId === own ? { ...one, nodeId: null } : one))
  return { ...difference, parts: { ...difference.parts, link: { ...link, set } } }
}
