import { isPlainObject, type Carried } from '../messages/carried'

export type Reached = { ok: true; value: Carried } | { ok: false; problem: string }

/**
 * A part of a row or an object by its name; parts of parts are written with “_” between them, as in `position_lat`. A
 * part whose own name has “_” in it comes first.
 */
export const reach = (whole: Carried, way: string): Reached => {
  if (whole === null) return { ok: true, value: null }
  if (!isPlainObject(whole)) return { ok: false, problem: `it has no parts, so there is no “${way}” in it` }
  if (Object.hasOwn(whole, way)) return { ok: true, value: whole[way]! }
  for (let at = way.indexOf('_'); at > 0; at = way.indexOf('_', at + 1)) {
    const inner = whole[way.slice(0, at)]
    if (inner === undefined || !Object.hasOwn(whole, way.slice(0, at)) || !isPlainObject(inner)) continue
    const found = reach(inner, way.slice(at + 1))
    if (found.ok) return found
  }
  const names = Object.keys(whole)
  return { ok: false, problem: `there is no “${way}” in it; it has ${names.slice(0, 12).join(', ') || 'nothing'}` }
}
