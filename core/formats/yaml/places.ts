import { EVENT_ID, getScalarValue, type Event } from 'js-yaml'

/** The name of a field, or the place in a list. */
export type Step = string | number

interface Part {
  /** Where it begins for the eye: of a field that is its name. */
  offset: number
  /** The event of its value. */
  value: number
}

/** Where the parts of a text stand. What lies in a map is looked through once, when it is first asked for. */
export class Places {
  private parts = new Map<number, Map<string, Part>>()

  constructor(
    private events: readonly Event[],
    private source: string,
  ) {}

  /** The offset of a part, or of the innermost that is there of what leads to it. */
  offsetOf(path: readonly Step[]): number {
    let { offset, value } = this.root()
    for (const step of path) {
      const found = this.inside(value).get(String(step))
      if (!found) break
      ;({ offset, value } = found)
    }
    return offset
  }

  /** A value as it is written, without quotes; null where there is none, or it is a list or a map. */
  writtenAt(path: readonly Step[]): string | null {
    let at: number | undefined = this.root().value
    for (const step of path) at = at === undefined ? undefined : this.inside(at).get(String(step))?.value
    const event = at === undefined ? undefined : this.events[at]
    return event?.type === EVENT_ID.SCALAR ? getScalarValue(this.source, event) : null
  }

  private root(): Part {
    const value = this.events.findIndex(({ type }) => type !== EVENT_ID.DOCUMENT)
    return { offset: startOf(this.events[value]), value }
  }

  private inside(parent: number): Map<string, Part> {
    const known = this.parts.get(parent)
    if (known) return known
    const found = new Map(this.partsOf(parent))
    this.parts.set(parent, found)
    return found
  }

  private *partsOf(parent: number): Iterable<[string, Part]> {
    const type = this.events[parent]?.type
    let at = parent + 1
    if (type === EVENT_ID.SEQUENCE)
      for (let i = 0; !this.isEnd(at); at = this.after(at)) yield [String(i++), { offset: startOf(this.events[at]), value: at }]
    if (type !== EVENT_ID.MAPPING) return
    while (!this.isEnd(at)) {
      const [key, value] = [this.events[at]!, this.after(at)]
      if (key.type === EVENT_ID.SCALAR) yield [getScalarValue(this.source, key), { offset: startOf(key), value }]
      at = this.after(value)
    }
  }

  private isEnd(at: number) {
    return at >= this.events.length || this.events[at]!.type === EVENT_ID.POP
  }

  /** The first event behind a node. */
  private after(at: number): number {
    let depth = 0
    do {
      const type = this.events[at]!.type
      if (type === EVENT_ID.SEQUENCE || type === EVENT_ID.MAPPING) depth++
      if (type === EVENT_ID.POP) depth--
      at++
    } while (depth > 0)
    return at
  }
}

const startOf = (event: Event | undefined): number => {
  if (!event) return 0
  if ('start' in event) return event.start
  if ('valueStart' in event) return event.valueStart
  return 'anchorStart' in event ? event.anchorStart : 0
}
