import { parametersOf, requiredOf } from './operation'
import type { Operation } from './settings'

/** A call as a point names it: an operation and what is given for its parameters, as in `tariff?zone=north&day=2026-11-27`. */
export interface Call {
  operation: string
  given: Record<string, string>
}

export type ReadCall = { ok: true; call: Call; canonical: string } | { ok: false; problem: string }

/** Reads a call as a person types it (the part behind “?” as forms send it: application/x-www-form-urlencoded). */
export const readCall = (text: string): ReadCall => {
  const [name = '', ...rest] = text.trim().split('?')
  const operation = name.trim()
  if (operation === '') return { ok: false, problem: 'Type the name of an operation, as in tariff or tariff?zone=north.' }
  if (!/^[A-Za-z0-9_.-]{1,80}$/.test(operation))
    return { ok: false, problem: `“${operation}” is no name of an operation: those have letters, digits, “_”, “-” and “.”.` }
  const given: Record<string, string> = {}
  for (const [parameter, value] of new URLSearchParams(rest.join('?'))) {
    if (Object.hasOwn(given, parameter)) return { ok: false, problem: `“${parameter}” is given twice.` }
    given[parameter] = value
  }
  return { ok: true, call: { operation, given }, canonical: callText({ operation, given }) }
}

export const callText = ({ operation, given }: Call): string => {
  const query = new URLSearchParams(given).toString()
  return query === '' ? operation : `${operation}?${query}`
}

/** What is wrong with a call, given the operations of its link. `left` are parameters that are filled in later; null: nothing is wrong. */
export const callProblem = (
  { operation: name, given }: Call,
  operations: readonly Operation[],
  left: readonly string[] = [],
): string | null => {
  const operation = operations.find((one) => one.name === name)
  if (!operation) {
    const known = operations.map((one) => one.name).slice(0, 5)
    return known.length === 0
      ? 'This link has no operations yet; make one in its settings.'
      : `There is no operation “${name}” here. There are: ${known.join(', ')}${operations.length > 5 ? ' …' : ''}.`
  }
  const wanted = parametersOf(operation)
  const missing = requiredOf(operation).filter((parameter) => !Object.hasOwn(given, parameter) && !left.includes(parameter))
  if (missing.length > 0)
    return `“${name}” also asks for ${missing.join(', ')}, as in ${name}?${missing.map((one) => `${one}=…`).join('&')}.`
  const unknown = Object.keys(given).filter((parameter) => !wanted.includes(parameter))
  return unknown.length > 0 ? `“${name}” has no parameter ${unknown.join(', ')}.` : null
}
