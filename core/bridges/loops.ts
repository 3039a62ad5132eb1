import type { BridgeDraft, Destination, Trigger } from './settings'

/** Bridges that set each other off through tags and topics, in a circle. */

interface Known extends Pick<BridgeDraft, 'when' | 'send'> {
  name: string
}

/** By which bridges, in their order, one sets itself off again; null: it does not. The shortest way there is. */
export const loopThrough = (bridge: Known, others: readonly Known[]): string[] | null => {
  const all = [bridge, ...others]
  const ways: { at: Known; names: string[] }[] = [{ at: bridge, names: [bridge.name] }]
  const seen = new Set<Known>()
  for (let way = ways.shift(); way; way = ways.shift()) {
    const { at, names } = way
    for (const next of all) {
      if (!setsOff(at, next)) continue
      if (next === bridge) return names
      if (seen.has(next)) continue
      seen.add(next)
      ways.push({ at: next, names: [...names, next.name] })
    }
  }
  return null
}

/** The circle in words, from its first bridge to itself. */
export const loopText = (names: readonly string[]): string => [...names, names[0]!].map((name) => `“${name}”`).join(' → ')

const setsOff = ({ send }: Known, { when }: Known): boolean =>
  send.some((destination) => when.some((trigger) => mayHear(trigger, destination)))

const mayHear = (trigger: Trigger, destination: Destination): boolean => {
  if ('tag' in trigger)
    return destination.kind === 'tags' && destination.fields.some(({ into }) => mayMeet(levelsOf(into), levelsOf(trigger.tag)))
  if (trigger.kind === 'file')
    return (
      destination.kind === 'file' &&
      destination.linkId === trigger.linkId &&
      mayMeet(levelsOf(destination.per === 'one' ? destination.name : starredName(destination.name)), levelsOf(trigger.files))
    )
  if (trigger.kind !== 'message' || destination.kind !== 'topic' || trigger.linkId !== destination.linkId) return false
  return mayMeet(levelsOf(destination.topic), levelsOf(trigger.filter.replace(/(^|\/)\+(?=\/|$)/g, '$1*').replace(/(^|\/)#$/, '$1**')))
}

/** Days, runs and sizes stand before the last dot. */
const starredName = (name: string) => name.replace(/(\.[^./]*)?$/, '*$1')

/** Parts that differ from run to run become stars; those that may hold whole paths, two of them. */
const levelsOf = (text: string): string[] =>
  text.replace(/\{([^{}]*)\}/g, (_, inside: string) => (/^\s*(part\d+|run)\s*$/.test(inside) ? '*' : '**')).split('/')

/** Whether one text can go by both patterns: `*` within a level, `**` for any rest. */
const mayMeet = ([a, ...restA]: readonly string[], [b, ...restB]: readonly string[]): boolean => {
  if (a === undefined || b === undefined) return a === b
  if (a.includes('**') || b.includes('**')) return true
  return levelsMeet(a, b) && mayMeet(restA, restB)
}

const levelsMeet = (a: string, b: string): boolean => {
  if (!a.includes('*') && !b.includes('*')) return a === b
  const [startA, startB] = [a.split('*')[0]!, b.split('*')[0]!]
  const [endA, endB] = [a.split('*').at(-1)!, b.split('*').at(-1)!]
  if (!a.includes('*')) return a.startsWith(startB) && a.endsWith(endB)
  if (!b.includes('*')) return b.startsWith(startA) && b.endsWith(endA)
  return (startA.startsWith(startB) || startB.startsWith(startA)) && (endA.endsWith(endB) || endB.endsWith(endA))
}
