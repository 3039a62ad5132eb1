import type { JournalSeverity } from '#core/journal/entry'
import { engineClient } from '../runtime/engineClient'
import { database } from '../store/database'

/** Tells what happened on this side: through the engine, which knows where events are kept, else straight to the database. */
export const noteEvent = async (severity: JournalSeverity, source: string, text: string): Promise<void> => {
  const throughEngine = () => engineClient.call((engine) => engine.noteEvent(severity, source, text))
  const at = new Date()
  const entry = { at, last_at: at, severity, source, text, fault: null }
  const toTable = () => database().insertInto('journal').values(entry).execute()
  await (engineClient.alive ? throughEngine().catch(toTable) : toTable()).catch(() => console.error(text))
}
