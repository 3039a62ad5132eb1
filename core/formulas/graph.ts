/** Which formulas read which: by the paths of their tags. */
export type Readers = ReadonlyMap<string, readonly string[]>

/**
 * The order in which formulas are worked out, each after those that it reads; and those that never can be, because they
 * read themselves in the end.
 *
 * @param reads what each formula reads; what is no formula itself is left aside
 */
export const ordered = (reads: Readers): { order: string[]; circular: string[] } => {
  const readers = new Map<string, string[]>()
  const open = new Map<string, number>()
  for (const [path, inputs] of reads) {
    const formulas = [...new Set(inputs)].filter((input) => reads.has(input))
    open.set(path, formulas.length)
    for (const input of formulas) {
      const known = readers.get(input)
      if (known) known.push(path)
      else readers.set(input, [path])
    }
  }
  const order = [...open].filter(([, count]) => count === 0).map(([path]) => path)
  for (const path of order)
    for (const reader of readers.get(path) ?? []) {
      const left = open.get(reader)! - 1
      open.set(reader, left)
      if (left === 0) order.push(reader)
    }
  const done = new Set(order)
  return { order, circular: [...reads.keys()].filter((path) => !done.has(path)) }
}

/** A way from a formula back to itself, by the paths that it leads through; null: there is none. */
export const cycleOf = (start: string, reads: Readers): string[] | null => {
  const seen = new Set<string>()
  const way: string[] = []
  const stack: { path: string; left: readonly string[]; next: number }[] = [{ path: start, left: reads.get(start) ?? [], next: 0 }]
  while (stack.length > 0) {
    const top = stack[stack.length - 1]!
    way.length = stack.length
    way[stack.length - 1] = top.path
    const input = top.left[top.next++]
    if (input === undefined) stack.pop()
    else if (input === start) return [...way, start]
    else if (!seen.has(input) && reads.has(input)) {
      seen.add(input)
      stack.push({ path: input, left: reads.get(input)!, next: 0 })
    }
  }
  return null
}
