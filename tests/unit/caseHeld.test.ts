import { expect, it } from 'vitest'
import { caseHeld, journalFor } from '#engine/configuration/caseHeld'
import { bringTo, emptyConfiguration, nothingDifferent, type Difference } from '#engine/configuration/site'
import type { ThingOf } from '#db/subjects'
import { siteFacts } from '#shared/siteFacts'

/** What an engine brings into force while its site looks at the case of another one, and after. */

const link = (id: number) => ({ id, revision: 1, name: `Link ${id}`, on: true }) as unknown as ThingOf['link']
const facts = (isCase: boolean) => ({ name: 'Harrow Sound', isCase })
const difference = (revision: number, isCase: boolean, set: number[], removed: number[] = []): Difference => {
  const made = nothingDifferent(revision, facts(isCase))
  made.parts.link.set.push(...set.map(link))
  made.parts.link.removed.push(...removed)
  return made
}

it('is nothing of a case, and whatever was in force goes', () => {
  const known = emptyConfiguration()
  bringTo(known, caseHeld(difference(1, false, [1]), known))
  expect([...known.things.link.keys()]).toEqual([1])
  const held = caseHeld(difference(2, true, [7, 8]), known)
  expect(held.parts.link).toEqual({ set: [], removed: [1] })
  expect(held.site?.isCase).toBe(true)
  bringTo(known, held)
  expect([known.revision, known.things.link.size]).toEqual([2, 0])
})

it('is nothing while only the rest of a case is told', () => {
  const known = emptyConfiguration()
  bringTo(known, caseHeld(difference(1, true, [7]), known))
  const later = nothingDifferent(2)
  later.parts.link.set.push(link(9))
  expect(caseHeld(later, known).parts.link.set).toEqual([])
})

it('is what there is once the case is closed, and what went with it was never there', () => {
  const known = emptyConfiguration()
  bringTo(known, caseHeld(difference(1, true, [7]), known))
  const closed = caseHeld(difference(2, false, [1], [7]), known)
  expect(closed.parts.link).toMatchObject({ set: [{ id: 1 }], removed: [] })
})

it('is what is known of the site where nothing is told of it', () => {
  const known = emptyConfiguration()
  const told = nothingDifferent(1)
  told.parts.link.set.push(link(1))
  expect(caseHeld(told, known)).toBe(told)
})

it('leaves the events of a case in the database, however old they are', () => {
  const journal = { where: 'memory', most: 1000, days: 30 }
  expect(journalFor(siteFacts.parse({ name: 'Harrow Sound', journal, isCase: true }))).toMatchObject({
    where: 'database',
    days: null,
    most: 1000,
  })
  expect(journalFor(siteFacts.parse({ name: 'Harrow Sound', journal }))).toMatchObject({ where: 'memory', days: 30 })
})
