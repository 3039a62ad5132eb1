import { jsonpath } from 'json-p3'
import type { Payload } from '../mqtt/payload'
import type { Carried } from './carried'

export type Found = { ok: true; value: Carried } | { ok: false; problem: string }

/** Finds one value in messages, by its path (RFC 9535). The path must have been found right. */
export const memberAt = (path: string): ((payload: Payload) => Found) => {
  const query = jsonpath.compile(path)
  return (payload) => {
    const { json } = payload
    if (!json.ok) return json
    const nodes = query.query(json.value as never)
    if (nodes.length === 1) return { ok: true, value: nodes.nodes[0]!.value as Carried }
    return { ok: false, problem: nodes.length === 0 ? `the message has nothing at ${path}` : `${path} gives ${nodes.length} values` }
  }
}
