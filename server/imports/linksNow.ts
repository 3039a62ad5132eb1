import { thingsOf } from '#db/rows'
import type { Link } from '#shared/links/link'
import type { LinkNames } from '#shared/sources/columns'
import { database } from '../store/database'

/** The links that can be read, as columns of tags look them up. */
export interface LinksNow extends LinkNames {
  linkOf(id: number): Link | undefined
}

export const linksNow = async (): Promise<LinksNow> => {
  const links = thingsOf('link', await database().selectFrom('link').selectAll().execute())
  const byId = new Map(links.map((link) => [link.id, link]))
  const byName = new Map(links.map(({ id, name }) => [name.toLowerCase(), id]))
  return {
    linkOf: (id) => byId.get(id),
    idOf: (name) => byName.get(name.toLowerCase()),
    nameOf: (id) => byId.get(id)?.name,
  }
}
