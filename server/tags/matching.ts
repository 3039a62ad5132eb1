import type { Severity } from '#core/tags/quality'
import type { TagDraft } from '#shared/tags'
import type { SourceKind } from '#shared/sources/registry'
import { holding } from '../answers/page'
import { findingsNow } from '../worker/findings'
import { tagWorker } from '../worker/tagWorker'
import { engineClient } from '../runtime/engineClient'
import { database } from '../store/database'
import { plain } from '../store/likeText'

export interface Which {
  find?: string | undefined
  link?: number | undefined
  source?: SourceKind | undefined
  below?: string | undefined
  access?: TagDraft['access'] | undefined
  quality?: Severity | undefined
  noted?: 'only' | undefined
}

/** The tags that are meant, as a query to go on with; of a quality are those that are so at this moment. */
export const matchingTags = async ({ find, link, source, below, access, quality, noted }: Which) => {
  const ofQuality = quality && (await engineClient.call((engine) => engine.ofQuality(quality)))
  const withNotes = noted && (await notedIds())
  return database()
    .selectFrom('tag')
    .$if(link !== undefined, (q) => q.where('link_id', '=', link!))
    .$if(source !== undefined, (q) => q.where('source', '=', source!))
    .$if(!!below, (q) => q.where('path', 'like', `${plain(below!)}/%`))
    .$if(access !== undefined, (q) => q.where('access', '=', access!))
    .$if(ofQuality !== undefined, (q) => q.where((eb) => eb('id', '=', eb.fn.any(eb.val(ofQuality!)))))
    .$if(withNotes !== undefined, (q) => q.where((eb) => eb('id', '=', eb.fn.any(eb.val(withNotes!)))))
    .where(holding(find, ['path', 'address', 'description']))
}

/** Tags of which there is something to be said that nobody accepted. */
const notedIds = async () => {
  const findings = await findingsNow()
  return tagWorker.call((notes) => notes.noted(findings))
}
