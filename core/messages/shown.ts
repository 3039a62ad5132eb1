import { Payload } from './payload'
import { jsonOf, type Carried } from './carried'

/** An answer as a person gets to see it, and may keep it as an example. */
interface Shown {
  body: string
  shortened: 'no' | 'lists' | 'cut'
}

/** So long may one be that is shown and kept, characters. */
export const mostShownChars = 200_000

/** So many elements of each list are left, whichever is the first to make it short enough. */
const steps = [200, 50, 10, 3, 1]

/** What is long keeps its form: its lists are shortened. Cut off is only what has no lists, or is no JSON. */
export const shownAnswer = (bytes: Uint8Array): Shown => {
  const whole = new TextDecoder().decode(bytes)
  if (whole.length <= mostShownChars) return { body: whole, shortened: 'no' }
  const { json } = Payload.judged(bytes)
  if (json.ok)
    for (const most of steps) {
      const body = jsonOf(withShortLists(json.value, most) as Carried)
      if (body.length <= mostShownChars) return { body, shortened: 'lists' }
    }
  return { body: whole.slice(0, mostShownChars), shortened: 'cut' }
}

const withShortLists = (value: unknown, most: number): unknown => {
  if (Array.isArray(value)) return value.slice(0, most).map((one: unknown) => withShortLists(one, most))
  if (typeof value !== 'object' || value === null) return value
  return Object.fromEntries(Object.entries(value).map(([name, one]) => [name, withShortLists(one, most)]))
}

/** What came as text to point into; absent where there is nothing inside to point at. */
export const outlineOf = (payload: Payload): string | undefined => {
  const { json } = payload
  if (!json.ok || typeof json.value !== 'object' || json.value === null) return undefined
  const { body, shortened } = shownAnswer(payload.bytes)
  return shortened === 'cut' ? undefined : body
}
