import type { SourceKind } from '#shared/sources/registry'
import { holding } from '../answers/page'
import { database } from '../store/database'
import { plain } from '../store/likeText'

interface Which {
  find?: string | undefined
  link?: number | undefined
  source?: SourceKind | undefined
  below?: string | undefined
}

/** The tags that are meant, as a query to go on with. */
export const matchingTags = ({ find, link, source, below }: Which) =>
  database()
    .selectFrom('tag')
    .$if(link !== undefined, (q) => q.where('link_id', '=', link!))
    .$if(source !== undefined, (q) => q.where('source', '=', source!))
    .$if(!!below, (q) => q.where('path', 'like', `${plain(below!)}/%`))
    .where(holding(find, ['path', 'address', 'description']))
