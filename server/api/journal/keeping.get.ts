import { keepingOfJournal } from '#shared/journal'
import { showJournalKeeping } from '#shared/api/journal'
import { defineRoute } from '../../answers/route'
import { journalUse } from '../../journal/use'
import { database } from '../../store/database'

export default defineRoute(showJournalKeeping, async () => {
  const [{ journal }, use] = await Promise.all([database().selectFrom('site').select('journal').executeTakeFirstOrThrow(), journalUse()])
  return { keeping: keepingOfJournal.catch(keepingOfJournal.parse({})).parse(journal), use }
})
