import type { Secret } from '#core/contracts/secret'
import { mapSecrets } from '#shared/secrets'
import { isSubject, textFormOf, type DraftOf, type Subject } from '../subjects'
import { isRecord, type Stored } from '../subjects/definition'
import { lean, shapeOf, type Shape } from './shape'

/** In the text a secret is only named. */
export interface NamedSecret {
  secret: string
}
const isNamedSecret = (value: unknown): value is NamedSecret =>
  isRecord(value) && Object.keys(value).length === 1 && typeof value.secret === 'string'

const shapes = new Map<Subject, Shape>()
/** The form of what a contract takes, made once. */
export const shapeOfSubject = (subject: Subject): Shape => {
  const known = shapes.get(subject) ?? shapeOf(textFormOf(subject).contract)
  shapes.set(subject, known)
  return known
}

/**
 * A thing as the text has it: without the name that it stands under and without what is so by default, with names in
 * place of numbers and in place of secrets.
 */
export const textOfThing = <S extends Subject>(
  subject: S,
  thing: DraftOf[S],
  names: { thing(subject: Subject, id: number): string; secret(path: string): string },
): Stored => {
  const { key, needs } = textFormOf(subject)
  const leaner = lean(thing, shapeOfSubject(subject)) as Stored
  const { [key]: _name, ...fields } = mapSecrets(leaner, (_secret, { owner }) => ({ secret: names.secret(owner) }))
  return needs.length === 0 ? fields : (withNames(fields, names.thing) as Stored)
}

/** A field `linkId` that holds a number becomes a field `link` that holds a name. */
const withNames = (value: unknown, nameOf: (subject: Subject, id: number) => string): unknown => {
  if (Array.isArray(value)) return value.map((part) => withNames(part, nameOf))
  if (!isRecord(value)) return value
  return Object.fromEntries(
    Object.entries(value).map(([field, part]) => {
      const subject = field.endsWith('Id') ? field.slice(0, -2) : ''
      return isSubject(subject) && typeof part === 'number' ? [subject, nameOf(subject, part)] : [field, withNames(part, nameOf)]
    }),
  )
}

export interface TextProblem {
  /** Within the thing. */
  path: (string | number)[]
  message: string
}

/**
 * What a thing of the text says, as its contract takes it: numbers in place of names, and of each secret either what
 * was given or the mark that it is kept.
 */
export const thingOfText = (
  subject: Subject,
  name: string,
  fields: unknown,
  { idOf, secrets }: { idOf(subject: Subject, name: string): number | undefined; secrets: ReadonlyMap<string, string> },
): { thing: Stored; problems: TextProblem[]; named: Map<string, string> } => {
  const { key, needs } = textFormOf(subject)
  const problems: TextProblem[] = []
  const named = new Map<string, string>()
  const taken = (value: unknown, path: (string | number)[]): unknown => {
    if (Array.isArray(value)) return value.map((part: unknown, i) => taken(part, [...path, i]))
    if (!isRecord(value)) return value
    if (isNamedSecret(value)) return secretOf(value, path)
    if (isOpenSecret(value)) problems.push({ path, message: 'A secret does not stand in the text: write “secret” and a name for it.' })
    return Object.fromEntries(Object.entries(value).map(([field, part]) => fieldOf(field, part, [...path, field])))
  }
  const secretOf = ({ secret }: NamedSecret, path: (string | number)[]): Secret => {
    named.set(path.join('.'), secret)
    const given = secrets.get(secret)
    return given === undefined ? { kept: true } : { plain: given }
  }
  const fieldOf = (field: string, part: unknown, path: (string | number)[]): [string, unknown] => {
    if (!isSubject(field) || !needs.includes(field) || typeof part !== 'string') return [field, taken(part, path)]
    const id = idOf(field, part)
    if (id === undefined) problems.push({ path, message: `There is no ${field} “${part}”, neither in this text nor at the site.` })
    return [`${field}Id`, id ?? 1]
  }
  if (!isRecord(fields)) return { thing: {}, problems: [{ path: [], message: 'This takes fields with values.' }], named }
  return { thing: { [key]: name, ...(taken(fields, []) as Stored) }, problems, named }
}

const openMarks = ['plain', 'sealed', 'hashed', 'kept']
const isOpenSecret = (value: Stored) => {
  const [name, ...others] = Object.keys(value)
  return others.length === 0 && name !== undefined && openMarks.includes(name)
}
