import { protocolOf } from '#core/links/registry'
import { readable, thingOf } from '#db/rows'
import type { Link, LinkDraft } from '#shared/links/link'
import { mapSecrets, withoutSecrets } from '#shared/secrets'
import type { Row } from '#db/editor'
import { rowOf } from '../store/configuration'
import { invalid } from '../answers/checked'
import { complete } from '../store/secrets'

/** A link as it leaves the server. */
export const shownLink = (row: Row<'link'>): Link => {
  const link = thingOf('link', row)
  return { ...link, settings: withoutSecrets(link.settings) }
}

/** Of many rows, the links that can be read. */
export const shownLinks = (rows: readonly Row<'link'>[]): Link[] => readable(rows, shownLink)

/** A draft as the engine needs it; `linkId` names the saved link whose secrets it keeps. */
export const completeDraft = async (draft: LinkDraft, linkId: number | null): Promise<LinkDraft> => {
  const saved = linkId === null ? null : thingOf('link', await rowOf('link', linkId))
  if (saved) refuseMovedSecrets(draft, saved)
  return { ...draft, settings: complete(draft.settings, saved?.settings ?? null) }
}

/** Whoever may change a link could else have its password sent to a machine of their own. */
export const refuseMovedSecrets = ({ kind, settings }: LinkDraft, saved: LinkDraft) => {
  const kept: string[] = []
  mapSecrets(settings, (secret, { path }) => {
    if ('kept' in secret) kept.push(path)
    return secret
  })
  const why = kept.length > 0 && kind === saved.kind ? protocolOf(kind).whyNotKept(saved.settings, settings) : null
  if (why) throw invalid(kept.map((path) => ({ path: `settings.${path}`, message: why })))
}
