import { nothingDifferent, type Configuration, type Difference } from './site'
import type { JournalKeeping } from '#core/journal/settings'
import { subjectsInOrder } from '#db/subjects'
import type { SiteFacts } from '#shared/siteFacts'

/**
 * A difference as it is to be brought into force. Of a site that looks at the case of another one nothing is: it is connected
 * to nothing. When that ends, what goes with it was never there.
 */
export const caseHeld = (difference: Difference, known: Configuration): Difference => {
  const { isCase } = difference.site ?? known.site
  if (isCase) return { ...nothingDifferent(difference.revision), site: difference.site, parts: allOf(known) }
  if (!known.site.isCase) return difference
  const parts = { ...difference.parts }
  for (const subject of subjectsInOrder()) {
    const removed = parts[subject].removed.filter((id) => known.things[subject].has(id))
    Object.assign(parts, { [subject]: { ...parts[subject], removed } })
  }
  return { ...difference, parts }
}

/** Whatever is in force goes: normally nothing, for only an empty site takes a case. */
const allOf = ({ things }: Configuration): Difference['parts'] => {
  const { parts } = nothingDifferent(0)
  for (const subject of subjectsInOrder()) parts[subject].removed.push(...things[subject].keys())
  return parts
}

/** How events are kept. Those of a case are in the database, however old they are. */
export const journalFor = ({ isCase, journal }: SiteFacts): JournalKeeping =>
  isCase ? { ...journal, where: 'database', days: null } : journal
