import { sql } from 'kysely'
import { fault } from '#core/faults/catalogue'
import { masked } from '#core/handover/mask'
import { counted } from '#core/text/counted'
import { changeConfiguration } from '#db/configuration'
import type { Editor } from '#db/editor'
import type { Change } from '#db/siteText/changes'
import { sections } from '#db/siteText/document'
import type { SitePlan } from '#db/siteText/plan'
import { isSubject, subjectsInOrder, type Subject } from '#db/subjects'
import { isRecord } from '#db/subjects/definition'
import type { CaseHead, leftOut } from '#shared/handover'
import type { z } from 'zod'
import { Refusal } from '../answers/refusalError'
import { bringIn, sealedChange, type Numbers } from '../siteText/apply'
import { planSite } from '../siteText/plan'
import { siteNow, type SiteNow } from '../siteText/siteNow'
import { database } from '../store/database'
import { writeCaseParts } from './caseParts'
import type { Pack } from './read'

/** Secrets are not in a pack. Nothing that needs one is asked for anything. */
class NoSecrets extends Map<string, string> {
  override get() {
    return 'not in the pack'
  }
  override has() {
    return true
  }
}

export const refuseUnlessEmpty = async (): Promise<SiteNow> => {
  const site = await siteNow(database())
  const things = sections.flatMap(({ subject, section }) =>
    site.things[subject].length > 0 ? [`${site.things[subject].length} ${section}`] : [],
  )
  if (things.length > 0) throw new Refusal(fault('case.not-empty', { things: things.join(', ') }))
  return site
}

/**
 * Brings a case into an empty copy: everything by the numbers that it had there, so that what the engine told of it means the
 * same here. The copy is marked in the same change, so that no engine ever takes it for a site of its own.
 */
export const openCase = async (who: string, pack: Pack, site: SiteNow): Promise<{ head: CaseHead; left: z.output<typeof leftOut>[] }> => {
  // where a secret was taken out of a name, the name is still one
  const text = pack.configuration.replaceAll(masked, 'masked')
  const plan = planSite('configuration.yaml', text, site, new NoSecrets())
  const changes = await Promise.all(soundChanges(plan).map(sealedChange))
  const { form: _form, ...of } = pack.head
  const head = { ...of, openedBy: who, openedAt: new Date().toISOString() }
  const left = plan.problems.map(({ path, message }) => ({ path, message }))
  const what = `Opened the case of “${of.site}”: ${counted(changes.length, 'thing')}`
  await changeConfiguration(database(), who, what, async (editor) => {
    if (editor.revision !== site.revision + 1) throw new Refusal(fault('text.stale', { name: 'configuration.yaml' }))
    await sql`set constraints all deferred`.execute(editor.db)
    await bringIn(editor, changes, numbersFor(changes, pack.numbers))
    await writeCaseParts(editor.db, { ...pack, left })
    await bringJournal(editor, pack.journal)
    const mark = { ...head, nameBefore: site.name }
    await editor.db
      .updateTable('site')
      .set({ name: of.site, case_of: JSON.stringify(mark) })
      .execute()
  })
  return { head, left }
}

/** Neither what does not fit, nor what needs something that does not. */
const soundChanges = ({ changes, problems }: SitePlan): Change[] => {
  const wrong = problems.map(({ path }) => path)
  const sectionOf = new Map(sections.map(({ subject, section }) => [subject, section]))
  let sound = changes.filter(({ subject, name }) => {
    const place = `${sectionOf.get(subject)}.${name}`
    return !wrong.some((path) => path === place || path.startsWith(`${place}.`))
  })
  for (let before = -1; before !== sound.length;) {
    before = sound.length
    const there = new Set(sound.flatMap((change) => (change.what === 'made' ? [`${change.subject} ${change.id}`] : [])))
    sound = sound.filter((change) => change.what === 'made' && needsOf(change.draft).every((need) => there.has(need)))
  }
  return sound
}

/** What a draft refers to, as “subject id”. */
const needsOf = (value: unknown): string[] => {
  if (Array.isArray(value)) return value.flatMap(needsOf)
  if (!isRecord(value)) return []
  return Object.entries(value).flatMap(([field, part]) => {
    const subject = field.endsWith('Id') ? field.slice(0, -2) : ''
    return isSubject(subject) && typeof part === 'number' ? [`${subject} ${part}`] : needsOf(part)
  })
}

/** Those of the pack; what has none there, or one that another has, gets one that is free. */
const numbersFor = (changes: readonly Change[], given: Pack['numbers']): Numbers => {
  const numbers: Partial<Record<Subject, Record<string, number>>> = {}
  for (const subject of subjectsInOrder()) {
    const own = given[subject] ?? {}
    const taken = new Set<number>()
    let next = Math.max(0, ...Object.values(own)) + 1
    numbers[subject] = {}
    for (const { name } of changes.filter((change) => change.subject === subject)) {
      const wanted = Object.hasOwn(own, name) ? own[name]! : next++
      const number = taken.has(wanted) ? next++ : wanted
      taken.add(number)
      numbers[subject][name] = number
    }
  }
  return numbers
}

/** So many entries travel in one statement. */
const inOneGo = 1000

/** Events as they were told, the oldest first. */
const bringJournal = async ({ db }: Editor, journal: Pack['journal']) => {
  const rows = journal.map(({ at, lastAt, fault: why, id: _id, ...entry }) => ({
    ...entry,
    at: new Date(at),
    last_at: new Date(lastAt),
    fault: why && JSON.stringify(why),
  }))
  rows.reverse()
  for (let at = 0; at < rows.length; at += inOneGo)
    await db
      .insertInto('journal')
      .values(rows.slice(at, at + inOneGo))
      .execute()
}
