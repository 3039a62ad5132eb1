import type { Protocol } from '#core/links/protocol'
import { thingsOf } from '#db/rows'
import { pointOf } from '#shared/sources/point'
import { isFrom } from '#shared/sources/registry'
import type { Link } from '#shared/links/link'
import { database } from '../store/database'

interface Kept {
  revision: number
  notes: Map<number, string>
}

const kept = new Map<number, Kept>()

/** Notes on the addresses of a link's tags, worked out once per revision of the site. */
export const linkNotes = async (link: Link, protocol: Protocol): Promise<Map<number, string>> => {
  const { revision } = await database().selectFrom('site').select('revision').executeTakeFirstOrThrow()
  const known = kept.get(link.id)
  if (known?.revision === revision) return known.notes
  const rows = await database().selectFrom('tag').selectAll().where('link_id', '=', link.id).execute()
  const notes = protocol.notes(
    thingsOf('tag', rows)
      .filter((tag) => isFrom('point', tag))
      .map((tag) => ({ ...pointOf(tag), id: tag.id, path: tag.path })),
    link.settings,
  )
  kept.set(link.id, { revision, notes })
  return notes
}
