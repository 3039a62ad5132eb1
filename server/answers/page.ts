import { sql, type Expression, type RawBuilder, type SelectQueryBuilder, type SqlBool, type StringReference } from 'kysely'
import { mostCounted } from '#shared/api/lists'
import { orderOf, wordsOf, type Page, type PageAsked } from '#core/lists/paged'
import { mostInteger } from '#core/contracts/fields'
import { database } from '../store/database'
import { containing } from '../store/likeText'

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
