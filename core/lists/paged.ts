import { naturalKey } from '../text/naturalKey'

/** Which page of a list was asked for, and in which order. */
export interface PageAsked<S extends string> {
  find?: string | undefined
  sort: S | `-${S}`
  offset: number
  limit: number
}

export interface Page<T> {
  total: number
  offset: number
  items: T[]
}

/** What is looked for, word by word. */
export const wordsOf = (find = '') => find.split(/\s+/).filter(Boolean)

export const orderOf = <S extends string>(sort: S | `-${S}`) => {
  const isDown = sort.startsWith('-')
  return { name: (isDown ? sort.slice(1) : sort) as S, isDown }
}

interface Ways<T, S extends string> {
  /** What is looked through for the words. */
  text: (item: T) => string
  by: Record<S, (item: T) => string | number | null>
}

type Key = string | number

const keyOf = (value: string | number | null): Key => (typeof value === 'number' ? value : naturalKey(value ?? ''))
const compare = (a: Key, b: Key): number => (a < b ? -1 : a > b ? 1 : 0)

/** A page of a list that is at hand whole. */
export const pageOfArray = <T, S extends string>(all: readonly T[], asked: PageAsked<S>, { text, by }: Ways<T, S>): Page<T> => {
  const words = wordsOf(asked.find?.toLowerCase())
  const matching = words.length > 0 ? all.filter((item) => words.every((word) => text(item).toLowerCase().includes(word))) : [...all]
  const { name, isDown } = orderOf(asked.sort)
  const keyed = matching.map((item) => ({ item, key: keyOf(by[name](item)) }))
  keyed.sort((a, b) => (isDown ? compare(b.key, a.key) : compare(a.key, b.key)))
  const items = keyed.slice(asked.offset, asked.offset + asked.limit).map(({ item }) => item)
  return { total: keyed.length, offset: asked.offset, items }
}
