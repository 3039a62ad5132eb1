/**
 * A way into a value: members of structures and elements of arrays, as in `Target.Angle`,
 * `[2]` or `Zones[3].Limit`. The standard's index range (OPC 10000-4, 7.27) reaches elements but
 * not the members of structures, so this is a notation of ours.
 */
export type MemberStep = string | number
export type ParsedMember = { ok: true; steps: MemberStep[] } | { ok: false; problem: string }

const refuse = (problem: string): ParsedMember => ({ ok: false, problem })
const token = /^(?:\.?([A-Za-z_][\w -]*)|\[(\d+)\])/

export const parseMember = (text: string): ParsedMember => {
  const steps: MemberStep[] = []
  let rest = text.trim()
  while (rest !== '') {
    const match = token.exec(rest)
    if (!match || (steps.length === 0 && rest.startsWith('.')))
      return refuse(`“${rest}” is no way into a value; write members and elements as in Zones[3].Limit.`)
    steps.push(match[2] === undefined ? match[1]!.trim() : Number(match[2]))
    rest = rest.slice(match[0].length)
  }
  return { ok: true, steps }
}

/** What lies at the end of the way, or undefined. Members are found whatever the case of their first letter. */
export const follow = (value: unknown, steps: readonly MemberStep[]): unknown => {
  let at: unknown = value
  for (const step of steps) {
    if (at === null || typeof at !== 'object') return undefined
    at = typeof step === 'number' ? (at as ArrayLike<unknown>)[step] : memberOf(at as Record<string, unknown>, step)
  }
  return at
}

const memberOf = (structure: Record<string, unknown>, name: string): unknown => {
  const key = keyOf(structure, name)
  return key === null ? undefined : structure[key]
}

/** The name under which a decoded structure holds a member. */
export const keyOf = (structure: object, name: string): string | null => {
  if (Object.hasOwn(structure, name)) return name
  const lower = name.charAt(0).toLowerCase() + name.slice(1)
  return Object.hasOwn(structure, lower) ? lower : null
}
