import { grouped } from './grouped'

interface Folding<T> {
  /** As many are shown one by one, whatever they are. */
  most: number
  /** Whether nobody has to look at it. */
  isWell(one: T): boolean
  /** What is folded together. */
  kindOf(one: T): string
}

export interface Folded<T> {
  /** One by one, in their order. */
  shown: T[]
  /** What is well, by kind; each of two or more. */
  groups: { kind: string; all: T[] }[]
}

/** Many things for one look: what needs somebody stands by itself, what is well is folded by kind. */
export const folded = <T>(all: readonly T[], { most, isWell, kindOf }: Folding<T>): Folded<T> => {
  if (all.length <= most) return { shown: [...all], groups: [] }
  const groups = [...grouped(all.filter(isWell), kindOf)]
    .map(([kind, some]) => ({ kind, all: some }))
    .filter(({ all: some }) => some.length > 1)
  const away = new Set(groups.flatMap(({ all: some }) => some))
  return { shown: all.filter((one) => !away.has(one)), groups }
}
