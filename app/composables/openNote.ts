import type { TagNote } from '#shared/notes'

/** What is to be said of a tag first, that nobody accepted; as lists show it. */
export const openNote = (notes: readonly TagNote[] | undefined): string | undefined =>
  notes?.find(({ accepted }) => accepted === null)?.text
