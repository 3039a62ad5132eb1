import { asLink, readable } from '#db/rows'
import type { Link, LinkDraft } from '#shared/links/link'
import { withoutSecrets } from '#shared/secrets'
import type { Row } from '#db/configuration'
import { rowOf } from './configuration'
import { complete } from './secrets'

/** A link as it leaves the server. */
export const shownLink = (row: Row<'link'>): Link => {
  const link = asLink(row)
  return { ...link, settings: withoutSecrets(link.settings) }
}

/** Of many rows, the links that can be read. */
export const shownLinks = (rows: readonly Row<'link'>[]): Link[] => readable(rows, shownLink)

/** A draft as the engine needs it; `linkId` names the saved link whose secrets it keeps. */
export const completeDraft = async (draft: LinkDraft, linkId: number | null): Promise<LinkDraft> => {
  const saved = linkId === null ? null : asLink(await rowOf('link', linkId)).settings
  return { ...draft, settings: complete(draft.settings, saved) }
}
