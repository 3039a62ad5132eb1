import { jsonOf, textOf, type Carried } from '../messages/carried'
import { parseJson } from '../messages/json'

/** Operations of a web API, and what is made of them with the parameters of a call. */

export const methods = ['GET', 'POST', 'PUT', 'PATCH', 'DELETE'] as const
export type Method = (typeof methods)[number]

/** Methods that a call may be repeated with: the outcome is the same (RFC 9110, 9.2.2). */
export const isRepeatable = (method: Method): boolean => method !== 'POST' && method !== 'PATCH'

interface NamedText {
  name: string
  value: string
  /** It is left out where nothing is given for it. */
  optional?: boolean
}

export interface OperationText {
  method: Method
  path: string
  query: readonly NamedText[]
  headers: readonly NamedText[]
  body: string
  type: string
}

export interface Request {
  method: Method
  /** Below the base address; begins with “/” or is empty, and holds the query. */
  target: string
  headers: Record<string, string>
  body: string | Uint8Array | null
}

const hole = /\{([^{}]*)\}/g
const parameterName = /^[A-Za-z_][A-Za-z0-9_.-]{0,79}$/

/** A name as somebody else has it, as one that may stand in braces. */
export const parameterText = (name: string): string =>
  name
    .replaceAll(/[^A-Za-z0-9_.-]/g, '_')
    .replace(/^(?![A-Za-z_])/, '_')
    .slice(0, 80)

/** What is wrong with a text that has parameters in braces; null: nothing. */
export const templateProblem = (text: string): string | null => {
  for (const [whole, name] of text.matchAll(hole))
    if (!parameterName.test(name!)) return `“${whole}” names no parameter: a name has letters, digits, “_”, “-” and “.”.`
  return /[{}]/.test(text.replaceAll(hole, '')) ? 'Each “{” has its “}”, with the name of a parameter in between.' : null
}

/** What is wrong with an operation as a whole; null: nothing. */
export const operationProblem = ({ method, path, body, type }: OperationText): { field: 'path' | 'body'; message: string } | null => {
  if (path !== '' && !path.startsWith('/')) return { field: 'path', message: 'A path begins with “/”.' }
  if (/[?#\s]/.test(path.replaceAll(hole, '')))
    return { field: 'path', message: 'A path holds no space, “?” or “#”; a query has its own fields.' }
  if (path.split('/').some((part) => part === '.' || part === '..'))
    return { field: 'path', message: 'A path goes down only: no part of it is “.” or “..”.' }
  if (body !== '' && method === 'GET') return { field: 'body', message: 'A GET has no body.' }
  if (body !== '' && isJson(type) && parsedBody(body) === undefined) return { field: 'body', message: bodyHint(body) }
  return null
}

const isJson = (type: string) => /[/+]json\b/i.test(type)

const parsedBody = (body: string): unknown => {
  try {
    return parseJson(body)
  } catch {
    return undefined
  }
}

const bodyHint = (body: string): string => {
  try {
    parseJson(body)
    return ''
  } catch (error) {
    return `This is no JSON: ${(error as Error).message}. A parameter stands as text, as in "{energy}"; it becomes a number where one is given.`
  }
}

/** The parameters of an operation, in the order in which they come up. */
export const parametersOf = ({ path, query, headers, body, type }: OperationText): string[] => {
  const texts = [path, ...query.map(({ value }) => value), ...headers.map(({ value }) => value)]
  return [...new Set([...texts, ...bodyTexts(body, type)].flatMap(holesIn))]
}

/** Those that have to be given. */
export const requiredOf = ({ path, query, headers, body, type }: OperationText): string[] => {
  const texts = [path, ...[...query, ...headers].filter(({ optional }) => !optional).map(({ value }) => value)]
  return [...new Set([...texts, ...bodyTexts(body, type)].flatMap(holesIn))]
}

const bodyTexts = (body: string, type: string): string[] => (isJson(type) ? stringsIn(parsedBody(body)) : [body])
const holesIn = (text: string): string[] => [...text.matchAll(hole)].map(([, name]) => name!)

const stringsIn = (value: unknown): string[] => {
  if (typeof value === 'string') return [value]
  if (typeof value !== 'object' || value === null) return []
  return Object.entries(value).flatMap(([name, part]) => [...(Array.isArray(value) ? [] : [name]), ...stringsIn(part)])
}

export class CallProblem extends Error {
  constructor(
    readonly parameter: string,
    problem: string,
  ) {
    super(problem)
  }
}

/**
 * What goes out for a call. Throws a `CallProblem` where a parameter is missing, or cannot stand where it is to stand: in a path
 * it stays one part of it, in a header one line.
 */
export const requestOf = (operation: OperationText, given: Readonly<Record<string, Carried>>): Request => {
  const { method, path, query, headers, body, type } = operation
  const target = fill(path, given, inPath) + queryText(query, given)
  const filled = Object.fromEntries(
    headers.filter((one) => !isLeftOut(one, given)).map(({ name, value }) => [name, fill(value, given, inHeader)]),
  )
  if (body === '') return { method, target, headers: filled, body: null }
  return { method, target, headers: { 'content-type': type, ...filled }, body: bodyText(body, type, given) }
}

const queryText = (query: readonly NamedText[], given: Readonly<Record<string, Carried>>): string => {
  const parts = query.flatMap((one) => {
    if (isLeftOut(one, given)) return []
    const { name, value } = one
    const text = fill(value, given, textOf)
    // a parameter that is given nothing is left out
    return text === '' && value !== '' ? [] : [`${encodeURIComponent(name)}=${encodeURIComponent(text)}`]
  })
  return parts.length === 0 ? '' : `?${parts.join('&')}`
}

const isLeftOut = ({ value, optional }: NamedText, given: Readonly<Record<string, Carried>>): boolean =>
  optional === true && holesIn(value).some((name) => !Object.hasOwn(given, name) || given[name] === null)

const fill = (text: string, given: Readonly<Record<string, Carried>>, as: (value: Carried, name: string) => string): string =>
  text.replaceAll(hole, (_, name: string) => as(argumentOf(given, name), name))

const argumentOf = (given: Readonly<Record<string, Carried>>, name: string): Carried => {
  if (!Object.hasOwn(given, name)) throw new CallProblem(name, `nothing is given for {${name}}`)
  return given[name]!
}

const inPath = (value: Carried, name: string): string => {
  const text = textOf(value)
  if (text === '') throw new CallProblem(name, `{${name}} is empty, and a path would be another one without it`)
  if (text === '.' || text === '..') throw new CallProblem(name, `{${name}} is “${text}”, which would lead elsewhere`)
  return encodeURIComponent(text)
}

const inHeader = (value: Carried, name: string): string => {
  const text = textOf(value)
  if (/[\r\n\0]/.test(text)) throw new CallProblem(name, `{${name}} has a line break, and a header has none`)
  return text
}

const bodyText = (body: string, type: string, given: Readonly<Record<string, Carried>>): string => {
  if (!isJson(type)) return fill(body, given, textOf)
  return jsonOf(filledIn(parseJson(body), given) as Carried)
}

const wholeHole = /^\{([^{}]*)\}$/

/** A text that is nothing but a parameter becomes what is given, with its type. */
const filledIn = (value: unknown, given: Readonly<Record<string, Carried>>): unknown => {
  if (typeof value === 'string') {
    const whole = wholeHole.exec(value)
    return whole ? argumentOf(given, whole[1]!) : fill(value, given, textOf)
  }
  if (Array.isArray(value)) return value.map((part) => filledIn(part, given))
  if (typeof value !== 'object' || value === null) return value
  return Object.fromEntries(Object.entries(value).map(([name, part]) => [fill(name, given, textOf), filledIn(part, given)]))
}
