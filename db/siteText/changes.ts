import { differencesBetween, type Difference } from '#core/text/differences'
import type { DraftOf, Subject, ThingOf } from '../subjects'
import { isRecord, type Stored } from '../subjects/definition'

interface Named<S extends Subject> {
  subject: S
  name: string
}

/** What a text comes to for one thing. `id` of one that is new is its own for now. */
export type Change<S extends Subject = Subject> = Named<S> &
  (
    | { what: 'made'; draft: DraftOf[S]; id: number }
    /** `compared`: with what is kept in the place of secrets that were given and are the same. */
    | { what: 'changed'; thing: ThingOf[S]; draft: DraftOf[S]; compared: DraftOf[S] }
    | { what: 'removed'; thing: ThingOf[S] }
  )

/** A thing without what marks it. */
export const draftOf = <S extends Subject>(thing: ThingOf[S]): DraftOf[S] => {
  const { id: _id, revision: _revision, ...draft } = thing as unknown as Stored
  return draft as DraftOf[S]
}

/** In which fields a change differs; secrets only tell that they do. */
export const fieldsOf = (change: Change, nameOf: NameOf): Difference[] => {
  const before = change.what === 'made' ? {} : shown(draftOf(change.thing), nameOf)
  const after = change.what === 'removed' ? {} : shown(change.what === 'changed' ? change.compared : change.draft, nameOf)
  return differencesBetween(before, after)
}

type Referred = 'link' | 'outlet' | 'node'
type NameOf = (of: Referred, id: number) => string

const secretMarks = ['plain', 'sealed', 'hashed']

const shown = (value: unknown, nameOf: NameOf): unknown => {
  if (Array.isArray(value)) return value.map((part) => shown(part, nameOf))
  if (!isRecord(value)) return value
  const [only, ...others] = Object.keys(value)
  if (others.length === 0 && secretMarks.includes(only ?? '')) return only === 'plain' ? 'another secret' : 'a secret'
  const fields = Object.entries(value).map(([name, part]) => {
    const [, referred] = /^(link|outlet|node)Id$/.exec(name) ?? []
    return referred && typeof part === 'number' ? [referred, nameOf(referred as Referred, part)] : [name, shown(part, nameOf)]
  })
  return Object.fromEntries(fields)
}
