/** A list in parts of at most `most` items. */
export const parted = <T>(all: readonly T[], most: number): T[][] => {
  const parts: T[][] = []
  for (let at = 0; at < all.length; at += most) parts.push(all.slice(at, at + most))
  return parts
}
