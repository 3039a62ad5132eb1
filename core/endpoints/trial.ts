import type { Raw } from './given'
import { parametersOf, type Endpoint } from './settings'

/** A request to an endpoint as somebody would send it who has these values. */
export interface TrialRequest {
  /** Path and query, encoded. */
  target: string
  path: string
  raw: Raw
}

/** Puts each value where its parameter is given; what is empty is not given. */
export const requestFor = (endpoint: Pick<Endpoint, 'path' | 'parameters'>, values: Readonly<Record<string, string>>): TrialRequest => {
  const given = parametersOf(endpoint)
    .filter(({ name }) => Object.hasOwn(values, name) && values[name] !== '')
    .map(({ name, in: where }) => ({ name, where, text: values[name]! }))
  const at = (place: string) => given.filter(({ where }) => where === place)
  const valuesAt = (place: string) => Object.fromEntries(at(place).map(({ name, text }) => [name, text]))
  const query = new URLSearchParams(at('query').map(({ name, text }): [string, string] => [name, text]))
  const inPath = valuesAt('path')
  const filled = (as: (text: string) => string) =>
    endpoint.path.replaceAll(/\{([^{}]*)\}/g, (hole, name: string) => (Object.hasOwn(inPath, name) ? as(inPath[name]!) : hole))
  return {
    target: filled(encodeURIComponent) + (query.size > 0 ? `?${query.toString()}` : ''),
    path: filled((text) => text),
    raw: {
      ...{ path: inPath, query },
      headers: Object.fromEntries(at('header').map(({ name, text }) => [name.toLowerCase(), text])),
      body: at('body').length > 0 ? valuesAt('body') : undefined,
    },
  }
}
