import { methods, parameterText, type Method } from '../operation'
import { operationContract, type Operation } from '../settings'
import { bodyOf } from './body'
import { listOf, recordOf, textOf, type Parts } from './parts'
import { exampleOf } from './sample'

/** How a description says that calls show whose they are. */
export type DescribedSignIn =
  | { kind: 'basic' }
  | { kind: 'bearer' }
  | { kind: 'key'; in: 'header' | 'query'; name: string }
  | { kind: 'oauth'; tokenAddress: string; scope: string }

export interface DescribedOperation {
  operation: Operation
  about: string
  /** What of it is to be seen to by a person; empty: nothing. */
  note: string
}

/** What a description of a web API says (OpenAPI 3.0 and 3.1). */
export interface Description {
  title: string
  /** The base address of its first server; null: it names none. */
  base: string | null
  signIn: DescribedSignIn | null
  operations: DescribedOperation[]
  /** What of it cannot be taken, and why. */
  left: { what: string; why: string }[]
}

export type ReadDescription = { ok: true; description: Description } | { ok: false; problem: string }

const mostOperations = 500

/**
 * Reads a description whose references have been followed, as far as they do not lead into themselves.
 * @param address where it was found; what it says of its servers may go by that
 */
export const readDescription = (document: unknown, address: string | null): ReadDescription => {
  const whole = recordOf(document)
  const version = textOf(whole.openapi)
  if (typeof whole.swagger === 'string')
    return { ok: false, problem: `it is a description of version ${whole.swagger}; versions 3.0 and 3.1 are read` }
  if (!/^3\.[01](\.|$)/.test(version))
    return { ok: false, problem: version === '' ? 'it does not begin as an OpenAPI description does' : `it is of version ${version}` }
  const left: Description['left'] = []
  const operations: DescribedOperation[] = []
  const names = new Set<string>()
  for (const [path, item] of Object.entries(recordOf(whole.paths)))
    for (const method of methods) {
      const text = recordOf(item)[method.toLowerCase()]
      if (text === undefined) continue
      const what = `${method} ${path}`
      if (operations.length >= mostOperations) left.push({ what, why: `a link has at most ${mostOperations} operations` })
      else take(operationOf(method, path, recordOf(item), recordOf(text), names), what)
    }
  return { ok: true, description: { title: titleOf(whole), base: baseOf(whole, address), signIn: signInOf(whole), operations, left } }

  function take(read: DescribedOperation | string, what: string) {
    if (typeof read === 'string') left.push({ what, why: read })
    else operations.push(read)
  }
}

const titleOf = ({ info }: Parts) => [textOf(recordOf(info).title), textOf(recordOf(info).version)].filter(Boolean).join(' ')

interface Parameter {
  name: string
  in: string
  isRequired: boolean
}

/** What is ours to say, whatever a description has of it (OpenAPI 3.1, 4.8.12.1; our own keys for repeats). */
const ownHeaders = new Set(['accept', 'content-type', 'authorization', 'idempotency-key', 'if-none-match'])

const operationOf = (method: Method, path: string, item: Parts, text: Parts, names: Set<string>): DescribedOperation | string => {
  const parameters = parametersOf(item, text)
  const cookie = parameters.find((one) => one.in === 'cookie' && one.isRequired)
  if (cookie) return `it wants the cookie “${cookie.name}”, and cookies are not sent`
  const taken = new Set(parameters.map(({ name }) => parameterText(name)))
  const body = method === 'GET' ? null : bodyOf(text.requestBody, taken)
  const read = operationContract.safeParse({
    ...{ name: nameFor(textOf(text.operationId) || `${method.toLowerCase()}${path}`, names), method, path: pathWith(path) },
    query: namedIn(parameters, 'query'),
    headers: namedIn(parameters, 'header').filter(({ name }) => !ownHeaders.has(name.toLowerCase())),
    ...(body ? { body: body.text, type: body.type } : {}),
    example: exampleOf(text.responses),
  })
  if (!read.success) return read.error.issues[0]!.message
  names.add(read.data.name)
  return { operation: read.data, about: textOf(text.summary) || textOf(text.description).split('\n')[0]!, note: body?.note ?? '' }
}

/** Those of the path hold for all of its operations, unless one of them has its own of that name. */
const parametersOf = (item: Parts, text: Parts): Parameter[] => {
  const all = [...listOf(item.parameters), ...listOf(text.parameters)].map((one) => {
    const { name, in: where, required } = recordOf(one)
    return { name: textOf(name), in: textOf(where), isRequired: required === true }
  })
  return all.filter(({ name }) => name !== '').filter((one, i) => all.findLastIndex((other) => isSame(one, other)) === i)
}

const isSame = (a: Parameter, b: Parameter) => a.name === b.name && a.in === b.in

const namedIn = (parameters: readonly Parameter[], where: string) =>
  parameters
    .filter((one) => one.in === where)
    .map(({ name, isRequired }) => ({ name, value: `{${parameterText(name)}}`, optional: !isRequired }))

const pathWith = (path: string) => path.replaceAll(/\{([^{}]*)\}/g, (_, name: string) => `{${parameterText(name)}}`)

const nameFor = (wanted: string, names: ReadonlySet<string>): string => {
  const base =
    wanted
      .replaceAll(/[^A-Za-z0-9_.-]+/g, '_')
      .replaceAll(/^_+|_+$/g, '')
      .slice(0, 70) || 'operation'
  for (let at = 1; ; at++) {
    const name = at === 1 ? base : `${base}_${at}`
    if (!names.has(name)) return name
  }
}

const baseOf = ({ servers }: Parts, address: string | null): string | null => {
  const server = recordOf(listOf(servers)[0])
  const variables = recordOf(server.variables)
  const url = textOf(server.url).replaceAll(/\{([^{}]*)\}/g, (_, name: string) => textOf(recordOf(variables[name]).default))
  if (address === null) return /^https?:\/\//i.test(url) ? url.replace(/\/+$/, '') : null
  return URL.canParse(url || '/', address) ? new URL(url || '/', address).toString().replace(/\/+$/, '') : null
}

/** The first way in that we know how to go. */
const signInOf = ({ components, security }: Parts): DescribedSignIn | null => {
  const schemes = recordOf(recordOf(components).securitySchemes)
  const wanted = listOf(security).flatMap((one) => Object.keys(recordOf(one)))
  for (const name of new Set([...wanted, ...Object.keys(schemes)])) {
    const way = wayOf(recordOf(schemes[name]))
    if (way) return way
  }
  return null
}

const wayOf = ({ type, in: where, name, scheme, flows }: Parts): DescribedSignIn | null => {
  if (type === 'apiKey' && (where === 'header' || where === 'query')) return { kind: 'key', in: where, name: textOf(name) }
  if (type === 'http' && textOf(scheme).toLowerCase() === 'basic') return { kind: 'basic' }
  if (type === 'http' && textOf(scheme).toLowerCase() === 'bearer') return { kind: 'bearer' }
  const { tokenUrl, scopes } = recordOf(recordOf(flows).clientCredentials)
  return type === 'oauth2' && typeof tokenUrl === 'string'
    ? { kind: 'oauth', tokenAddress: tokenUrl, scope: Object.keys(recordOf(scopes)).join(' ') }
    : null
}
