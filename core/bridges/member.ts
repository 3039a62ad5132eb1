import { jsonpath } from 'json-p3'
import type { Payload } from '../messages/payload'
import { atWay, nowhere, wayOf, type Way } from '../messages/singular'
import type { Carried } from '../messages/carried'
import { mostRows } from './each'

export type Found = { ok: true; value: Carried } | { ok: false; problem: string }

/**
 * Finds one value in messages, by its path (RFC 9535). The path must have been found right.
 *
 * @param whole what is looked into, for messages
 * @param each everything that the path leads to, as a list; of a single list its elements
 */
export const memberAt = (path: string, each: boolean, whole = 'the message'): ((payload: Payload) => Found) => {
  const way = each ? null : wayOf(path)
  return way ? placeAt(path, way, whole) : searched(path, each, whole)
}

const placeAt =
  (path: string, way: Way, whole: string) =>
  ({ json }: Payload): Found => {
    if (!json.ok) return json
    const value = atWay(json.value, way)
    return value === nowhere ? { ok: false, problem: `${whole} has nothing at ${path}` } : { ok: true, value: value as Carried }
  }

const searched = (path: string, each: boolean, whole: string) => {
  const query = jsonpath.compile(path)
  return (payload: Payload): Found => {
    const { json } = payload
    if (!json.ok) return json
    const nodes = query.query(json.value as never)
    if (each && nodes.length > 0)
      return listOf(
        nodes.nodes.map(({ value }) => value as Carried),
        path,
      )
    if (nodes.length === 1) return { ok: true, value: nodes.nodes[0]!.value as Carried }
    return { ok: false, problem: nodes.length === 0 ? `${whole} has nothing at ${path}` : `${path} gives ${nodes.length} values` }
  }
}

const listOf = (values: readonly Carried[], path: string): Found => {
  const list = values.length === 1 && Array.isArray(values[0]) ? (values[0] as readonly Carried[]) : values
  if (list.length <= mostRows) return { ok: true, value: list }
  return {
    ok: false,
    problem: `${path} gives ${list.length.toLocaleString('en-GB')} elements, and at most ${mostRows.toLocaleString('en-GB')} are taken`,
  }
}
