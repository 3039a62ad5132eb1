import { EVENT_ID, type Event } from 'js-yaml'

/**
 * What speaks against the references of a text, found without writing them out: that they lead into themselves, or
 * swell to more than `most` values.
 */
export const referenceProblem = (events: readonly Event[], source: string, most: number): { offset: number; problem: string } | null => {
  const sizes = new Map<string, number>()
  const open: { anchor: string | null; before: number }[] = []
  let values = 0
  for (const event of events) {
    switch (event.type) {
      case EVENT_ID.DOCUMENT:
        open.push({ anchor: null, before: values })
        break
      case EVENT_ID.SEQUENCE:
      case EVENT_ID.MAPPING:
        open.push({ anchor: nameIn(source, event), before: values })
        values++
        break
      case EVENT_ID.SCALAR: {
        const anchor = nameIn(source, event)
        if (anchor !== null) sizes.set(anchor, 1)
        values++
        break
      }
      case EVENT_ID.ALIAS: {
        const name = nameIn(source, event)
        if (open.some(({ anchor }) => anchor !== null && anchor === name))
          return { offset: event.anchorStart, problem: `the reference “${name}” leads into itself.` }
        values += sizes.get(name ?? '') ?? 1
        if (values > most) return { offset: event.anchorStart, problem: swollen(most) }
        break
      }
      case EVENT_ID.POP: {
        const { anchor, before } = open.pop()!
        if (anchor !== null) sizes.set(anchor, values - before)
        break
      }
    }
  }
  return null
}

const swollen = (most: number) => `with its references the text comes to more than ${most.toLocaleString('en-GB')} values.`

const nameIn = (source: string, { anchorStart, anchorEnd }: { anchorStart: number; anchorEnd: number }) =>
  anchorStart < 0 ? null : source.slice(anchorStart, anchorEnd)
