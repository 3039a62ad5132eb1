import { z } from 'zod'
import { noteKindNames, type NoteKind } from '#core/notes/kinds'

/** A note on a tag, as pages and programs get it. */
export const tagNote = z
  .object({
    kind: z.enum(noteKindNames),
    text: z.string().describe('A phrase about the tag.'),
    todo: z.string().describe('What to do about it.'),
    key: z.string().describe('By what it is accepted.'),
    accepted: z.string().nullable().describe('The reason for which somebody accepted it.'),
  })
  .meta({ id: 'TagNote' })
export type TagNote = z.output<typeof tagNote>

/** What only shows while a link runs: what the far side refuses, or is other than the tag has it. */
export interface Finding {
  /** The tag. */
  id: number
  kind: NoteKind
  text: string
}
