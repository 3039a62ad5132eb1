import { parseJson } from '../messages/json'
import { jsonOf, type Carried } from '../messages/carried'
import { wayOf } from '../messages/singular'
import { parameterText } from './operation'

/**
 * A body in which a parameter stands in place of one of its values. It is called after the value’s name, or after both of
 * its last ones where that is taken. Null: there is no such place.
 *
 * @param path of a single value (RFC 9535), as in $.power.kw
 */
export const withHole = (body: string, path: string): string | null => {
  const way = wayOf(path)
  if (!way || way.length === 0) return null
  const taken = new Set([...body.matchAll(/\{([A-Za-z_][A-Za-z0-9_.-]*)\}/g)].map(([, name]) => name!))
  const names = way.map(String)
  const [last, both] = [parameterText(names.at(-1)!), parameterText(names.slice(-2).join('_'))]
  const name = taken.has(last) ? both : last
  try {
    const whole = parseJson(body)
    return put(whole, way, `{${name}}`) ? jsonOf(whole as Carried) : null
  } catch {
    return null
  }
}

const put = (whole: unknown, way: readonly (string | number)[], value: string): boolean => {
  let at = whole
  for (const part of way.slice(0, -1)) {
    if (typeof at !== 'object' || at === null || !Object.hasOwn(at, part)) return false
    at = (at as Record<string | number, unknown>)[part]
  }
  const last = way.at(-1)!
  if (typeof at !== 'object' || at === null || !Object.hasOwn(at, last)) return false
  ;(at as Record<string | number, unknown>)[last] = value
  return true
}
