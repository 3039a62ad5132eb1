import { sql, type Expression, type RawBuilder, type SelectQueryBuilder, type SqlBool, type StringReference } from 'kysely'
import { mostCounted } from '#shared/api/lists'
import { naturalKey } from '#core/text/naturalKey'
import { mostInteger } from '#core/contracts/fields'
import { database } from '../store/database'
import { containing } from '../store/likeText'

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

/** For `where`: rows that hold all of these words in some of these columns. */
export const holding = (find: string | undefined, columns: readonly string[]): Expression<SqlBool> => {
  const held = wordsOf(find).map((word) => {
    const places = columns.map((column) => sql<SqlBool>`${sql.ref(column)} ilike ${containing(word)}`)
    return sql<SqlBool>`(${sql.join(places, sql` or `)})`
  })
  return held.length > 0 ? sql<SqlBool>`${sql.join(held, sql` and `)}` : sql<SqlBool>`true`
}

interface Order<DB, TB extends keyof DB, S extends string> {
  by: Record<S, StringReference<DB, TB> | RawBuilder<string>>
  /** What settles the order of equals. */
  last: StringReference<DB, TB>
}

/** The rows of a page of a table. */
export const rowsOfPage = <DB, TB extends keyof DB, O, S extends string>(
  matching: SelectQueryBuilder<DB, TB, O>,
  { sort, offset, limit }: PageAsked<S>,
  { by, last }: Order<DB, TB, S>,
): Promise<O[]> => {
  const { name, isDown } = orderOf(sort)
  const way = isDown ? 'desc' : 'asc'
  return matching.orderBy(by[name], way).orderBy(last, way).offset(offset).limit(limit).execute()
}

/** How many rows match. @param most where counting ends, for tables that grow without end. */
export const countOf = async <DB, TB extends keyof DB, O>(matching: SelectQueryBuilder<DB, TB, O>, most = mostInteger): Promise<number> => {
  const found = matching.clearSelect().select(sql.lit(1).as('one')).limit(most)
  const { total } = await database()
    .selectFrom(found.as('found'))
    .select((eb) => eb.fn.countAll<number>().as('total'))
    .executeTakeFirstOrThrow()
  return total
}

/** A page of what goes on: the newest of a table without end. */
export const pageOfLog = async <DB, TB extends keyof DB, O, S extends string>(
  matching: SelectQueryBuilder<DB, TB, O>,
  asked: PageAsked<S>,
  order: Order<DB, TB, S>,
): Promise<Page<O>> => {
  const [total, items] = await Promise.all([countOf(matching, mostCounted), rowsOfPage(matching, asked, order)])
  return { total, offset: asked.offset, items }
}
