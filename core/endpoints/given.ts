import type { Carried } from '../messages/carried'
import { isPlainObject } from '../messages/carried'
import { moment } from '../messages/moment'
import type { Parameter } from './settings'

/** What came with a request, before anybody knows what it should be. */
export interface Raw {
  path: Readonly<Record<string, string | undefined>>
  query: URLSearchParams
  headers: Readonly<Record<string, string | string[] | undefined>>
  /** The body as JSON; undefined: there is none. */
  body: unknown
}

export interface GivenProblem {
  name: string
  in: Parameter['in']
  problem: string
}
export type Given = { ok: true; values: Record<string, Carried> } | { ok: false; problems: GivenProblem[] }

/** Brings what came into the types of the parameters; everything that is wrong is told at once. */
export const readGiven = (parameters: readonly Parameter[], raw: Raw): Given => {
  const values: Record<string, Carried> = {}
  const problems: GivenProblem[] = []
  for (const parameter of parameters) {
    const read = oneOf(parameter, raw)
    if (read.ok) values[parameter.name] = read.value
    else problems.push({ name: parameter.name, in: parameter.in, problem: read.problem })
  }
  return problems.length > 0 ? { ok: false, problems } : { ok: true, values }
}

type Read = { ok: true; value: Carried } | { ok: false; problem: string }
const wrong = (problem: string): Read => ({ ok: false, problem })

const oneOf = (parameter: Parameter, raw: Raw): Read => {
  const text = rawOf(parameter, raw)
  if (text === undefined || text === null) return parameter.required ? wrong('it is missing') : { ok: true, value: null }
  if (Array.isArray(text)) return wrong('it is given more than once')
  const read = asType(parameter.type, text)
  return read.ok ? within(parameter, read.value) : read
}

const rawOf = ({ name, in: where }: Parameter, { path, query, headers, body }: Raw): unknown => {
  switch (where) {
    case 'path':
      return path[name]
    case 'query': {
      const all = query.getAll(name)
      return all.length > 1 ? all : all[0]
    }
    case 'header':
      return headers[name.toLowerCase()] ?? headers[name.toLowerCase().replaceAll('_', '-')]
    case 'body':
      return isPlainObject(body as Carried)
        ? Object.hasOwn(body as object, name)
          ? (body as Record<string, unknown>)[name]
          : undefined
        : undefined
  }
}

const asType = (type: Parameter['type'], raw: unknown): Read => {
  if (typeof raw === 'string') return fromText(type, raw)
  if (type === 'truth') return typeof raw === 'boolean' ? { ok: true, value: raw } : wrong('it is neither true nor false')
  if (type === 'text') return wrong('it is no text')
  if (type === 'time') return wrong('it is no time, as in 2026-11-27T14:00:00Z')
  if (typeof raw === 'bigint') return { ok: true, value: raw }
  if (typeof raw !== 'number') return wrong('it is no number')
  return type === 'whole' && !Number.isInteger(raw) ? wrong('it is no whole number') : { ok: true, value: raw }
}

const fromText = (type: Parameter['type'], text: string): Read => {
  switch (type) {
    case 'text':
      return text.includes('\0') ? wrong('it holds a character that no text has (NUL)') : { ok: true, value: text }
    case 'whole':
      if (!/^[+-]?\d{1,19}$/.test(text.trim())) return wrong('it is no whole number')
      return { ok: true, value: wholeIn(text.trim()) }
    case 'number':
      if (!/^[+-]?(\d+\.?\d*|\.\d+)(e[+-]?\d{1,3})?$/i.test(text.trim())) return wrong('it is no number')
      return { ok: true, value: Number(text) }
    case 'truth':
      return text === 'true' || text === 'false' ? { ok: true, value: text === 'true' } : wrong('it is neither true nor false')
    case 'time': {
      const at = /^\d{4}-\d\d-\d\d/.test(text) ? moment(text) : null
      return at === null ? wrong('it is no time, as in 2026-11-27T14:00:00Z') : { ok: true, value: new Date(at) }
    }
  }
}

const wholeIn = (text: string): number | bigint => {
  const number = Number(text)
  return Number.isSafeInteger(number) ? number : BigInt(text.replace('+', ''))
}

const within = ({ type, least, most, choices }: Parameter, value: Carried): Read => {
  if (choices.length > 0 && !choices.includes(String(value))) return wrong(`it is none of ${choices.slice(0, 10).join(', ')}`)
  const size =
    type === 'text' ? Array.from(value as string).length : typeof value === 'number' || typeof value === 'bigint' ? Number(value) : null
  const what = type === 'text' ? ' characters' : ''
  if (size !== null && !Number.isFinite(size)) return wrong('it is no number')
  if (size !== null && least !== null && size < least) return wrong(`it is below ${least}${what}`)
  if (size !== null && most !== null && size > most) return wrong(`it is above ${most}${what}`)
  return { ok: true, value }
}
