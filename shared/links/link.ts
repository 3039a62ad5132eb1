import { z } from 'zod'
import { linkKinds, type LinkKind } from '#core/links/registry'
import { nameField } from '../fields'
import { linkSettings } from './registry'

/** What a person enters to make or change a link. */
const linkDraft = z.object({
  name: nameField('link'),
  kind: z.enum(linkKinds),
  on: z.boolean().default(true),
  settings: z.unknown(),
})

/** Reads a draft whole: settings are checked by the contract of the kind, defaults filled in. */
export const linkContract = linkDraft.transform((draft, context) => {
  const settings = linkSettings[draft.kind].safeParse(draft.settings)
  if (settings.success) return { ...draft, settings: settings.data as LinkSettings }
  for (const issue of settings.error.issues) context.addIssue({ code: 'custom', message: issue.message, path: ['settings', ...issue.path] })
  return z.NEVER
})

export type LinkSettings = { [K in LinkKind]: z.output<(typeof linkSettings)[K]> }[LinkKind]
export type LinkDraft = z.output<typeof linkContract>

/** A saved link. `revision` is the site revision that last changed it. */
export interface Link extends LinkDraft {
  id: number
  revision: number
}

/** Changes name the revision they started from, so that two people cannot overwrite each other unseen. */
export const linkChange = z.object({ revision: z.int(), link: linkContract })
