import type { EntryFilter } from '#core/journal/entry'
import { journalHead, journalPart, type JournalForm } from '#core/journal/written'
import { journalPage } from './entries'

const entriesAtOnce = 1000

/** All entries that match, the newest first, as a file that is made while it is taken. */
export const journalFile = (form: JournalForm, filter: EntryFilter): ReadableStream<Uint8Array> => {
  const encoder = new TextEncoder()
  let before: number | undefined
  return new ReadableStream({
    start: (stream) => {
      const head = journalHead(form)
      if (head) stream.enqueue(encoder.encode(head))
    },
    pull: async (stream) => {
      const { items } = await journalPage({ ...filter, before, offset: 0, limit: entriesAtOnce }, '-id')
      before = items.at(-1)?.id
      if (items.length > 0) stream.enqueue(encoder.encode(journalPart(form, items)))
      if (items.length < entriesAtOnce) stream.close()
    },
  })
}
