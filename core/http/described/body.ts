import { parameterText } from '../operation'
import { jsonContent, merged, recordOf, typeOf } from './parts'

/** A body with a parameter wherever a value goes. */
interface Body {
  text: string
  type: string
  note: string
}

const mostDepth = 5
const mostValues = 200

/** Makes the body of an operation from what a description says of it; null: it has none. @param taken names of other parameters */
export const bodyOf = (requestBody: unknown, taken: ReadonlySet<string>): Body | null => {
  const { content } = recordOf(requestBody)
  if (content === undefined) return null
  const json = jsonContent(content)
  const [type = 'application/octet-stream'] = Object.keys(recordOf(content))
  if (!json) return { text: '', type, note: `Its body is ${type}: write it by hand.` }
  const names = new Names(taken)
  return { text: JSON.stringify(shapeOf(json.media.schema, '', names, 0), null, 1), type: json.type, note: '' }
}

/** Names of parameters in a body: those of their places, told apart from those of path and query. */
class Names {
  private given = new Set<string>()
  constructor(private taken: ReadonlySet<string>) {}

  get isFull() {
    return this.given.size >= mostValues
  }

  hole(place: string): string {
    const name = parameterText(place || 'body')
    for (let at = 1; ; at++) {
      const one = at === 1 ? name : `${name}_${at}`
      const free = this.taken.has(one) ? `body_${one}` : one
      if (this.given.has(free)) continue
      this.given.add(free)
      return `{${free}}`
    }
  }
}

const shapeOf = (schema: unknown, place: string, names: Names, depth: number): unknown => {
  const whole = merged(schema)
  if (whole.const !== undefined) return whole.const
  const parts = Object.entries(recordOf(whole.properties)).filter(([, part]) => recordOf(part).readOnly !== true)
  if (typeOf(whole) !== 'object' || parts.length === 0 || depth >= mostDepth) return names.hole(place)
  const shape: Record<string, unknown> = {}
  for (const [name, part] of parts) {
    if (names.isFull) break
    shape[name] = shapeOf(part, place === '' ? name : `${place}_${name}`, names, depth + 1)
  }
  return shape
}
