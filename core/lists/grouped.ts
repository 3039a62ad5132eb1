/** Items by a key of theirs, keys and items in the order in which they came. */
export const grouped = <K, T>(items: Iterable<T>, keyOf: (item: T) => K): Map<K, T[]> => {
  const groups = new Map<K, T[]>()
  for (const item of items) {
    const key = keyOf(item)
    const group = groups.get(key)
    if (group) group.push(item)
    else groups.set(key, [item])
  }
  return groups
}
