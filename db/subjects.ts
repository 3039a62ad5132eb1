import { z } from 'zod'
import { isRecord, type Definition, type Identified, type Stored } from './subjects/definition'
import { list } from './subjects/list'

type List = typeof list
export type Subject = keyof List
/** What a person enters of a thing, and the thing as it is kept. */
export type DraftOf = { [S in Subject]: List[S] extends { contract: z.ZodType<infer T extends object> } ? T : never }
export type ThingOf = { [S in Subject]: DraftOf[S] & Identified }
/** The tables that hold them, as Kysely sees them. */
export type SubjectTables = { [S in Subject]: List[S] extends { table?: infer Table } ? Exclude<Table, undefined> : never }

/** What a stored thing was read as; or why it cannot be, and whose it is as far as that can be told. */
export type Read<T> = { ok: true; thing: T } | { ok: false; id: number; name: string; revision: number; problem: string }

const definitionOf = <S extends Subject>(subject: S) => list[subject] as unknown as Definition<DraftOf[S], object>

export const isSubject = (text: string): text is Subject => Object.hasOwn(list, text)
export const nameOf = <S extends Subject>(subject: S, thing: DraftOf[S]): string => definitionOf(subject).nameOf(thing)

const identified = z.object({ id: z.int(), revision: z.int() })

/** Reads a row, or what a file or a revision kept of it, in its present or an older form. */
export const readStored = <S extends Subject>(subject: S, stored: unknown): Read<ThingOf[S]> => {
  const { broughtUp, contract } = definitionOf(subject)
  const present = isRecord(stored) ? broughtUp(stored) : stored
  const [outside, inside] = [identified.safeParse(present), contract.safeParse(present)]
  if (outside.success && inside.success) return { ok: true, thing: { ...inside.data, ...outside.data } as ThingOf[S] }
  const issues = [...(outside.error?.issues ?? []), ...(inside.error?.issues ?? [])]
  return { ok: false, ...markOf(stored), problem: issues.map(({ path, message }) => `${path.join('.')}: ${message}`).join(' ') }
}

const markOf = (stored: unknown) => {
  const { id, name, path, revision } = (stored ?? {}) as Stored
  const text = typeof name === 'string' ? name : typeof path === 'string' ? path : ''
  return { id: typeof id === 'number' ? id : 0, name: text, revision: typeof revision === 'number' ? revision : 0 }
}

/** How things of a subject stand in a text of the configuration. */
export const textFormOf = (subject: Subject) => {
  const { text, contract, needs } = definitionOf(subject)
  return { ...text, contract: contract as z.ZodType, needs }
}

/** The name that a thing stands under in a text of the configuration. */
export const keyOf = <S extends Subject>(subject: S, thing: DraftOf[S]): string => String(thing[definitionOf(subject).text.key])

/** A thing, or some of its fields, as its table has them. */
export const columnsOf = <S extends Subject>(subject: S, fields: Partial<DraftOf[S]>): Stored => definitionOf(subject).toColumns(fields)

/** All subjects; what a thing refers to comes before it. */
export const subjectsInOrder = (): Subject[] => {
  const order: Subject[] = []
  const add = (subject: Subject) => {
    if (order.includes(subject)) return
    for (const needed of definitionOf(subject).needs) if (isSubject(needed)) add(needed)
    order.push(subject)
  }
  for (const subject of Object.keys(list) as Subject[]) add(subject)
  return order
}

/** Whether other subjects refer to things of this one. */
export const isReferredTo = (subject: Subject) => subjectsInOrder().some((other) => definitionOf(other).needs.includes(subject))
