import { thingsOf } from '#db/rows'
import type { Kysely } from 'kysely'
import type { Database } from '#db/tables'
import type { Link } from '#shared/links/link'
import type { LinkNames } from '#shared/sources/columns'
import { database } from '../store/database'

/** The links that can be read, as columns of tags look them up. */
export interface LinksNow extends LinkNames {
  linkOf(id: number): Link | undefined
}

export const linksNow = (): Promise<LinksNow> => linksIn(database())

/** The same as a change sees them. */
export const linksIn = async (db: Kysely<Database>): Promise<LinksNow> => {
  const links = thingsOf('link', await db.selectFrom('link').selectAll().execute())
  const byId = new Map(links.map((link) => [link.id, link]))
  const byName = new Map(links.map(({ id, name }) => [name.toLowerCase(), id]))
  return {
    linkOf: (id) => byId.get(id),
    idOf: (name) => byName.get(name.toLowerCase()),
    nameOf: (id) => byId.get(id)?.name,
  }
}
