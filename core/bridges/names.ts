/** What expressions and templates of a bridge may name besides its inputs. */
export interface GivenName {
  name: string
  about: string
  /** What has to set the bridge off so that there is anything; absent: it is always there. */
  by?: 'tag' | 'message'
}

export const mostParts = 12

export const givenNames: readonly GivenName[] = [
  { name: 'value', about: 'the value of the tag that set it off', by: 'tag' },
  { name: 'quality', about: 'its quality, as an OPC UA status code; 0 is good', by: 'tag' },
  { name: 'unit', about: 'its engineering unit', by: 'tag' },
  { name: 'path', about: 'its path', by: 'tag' },
  { name: 'topic', about: 'the topic of the message that set it off', by: 'message' },
  { name: 'payload', about: 'the payload of that message, as text', by: 'message' },
  ...Array.from({ length: mostParts }, (_, i) => ({ name: `part${i + 1}`, about: `level ${i + 1} of that path or topic` })),
  { name: 'time', about: 'when it was set off: the source time of the tag, or when the message came' },
  { name: 'now', about: 'when the run began' },
  { name: 'run', about: 'the number of the run' },
  { name: 'worst', about: 'the worst quality of all inputs, as an OPC UA status code' },
]

const given = new Set(givenNames.map(({ name }) => name))
export const isGiven = (name: string) => given.has(name)

/** Of each input `a` there are also `a_quality`, `a_time` and `a_unit`. */
export const inputAspects = ['quality', 'time', 'unit'] as const
export type InputAspect = (typeof inputAspects)[number]

/** Which input a name stands for, and what of it; null: it is none of these. */
export const inputNamed = (name: string, inputs: readonly string[]): { index: number; aspect: InputAspect | null } | null => {
  const index = inputs.indexOf(name)
  if (index >= 0) return { index, aspect: null }
  for (const aspect of inputAspects)
    if (name.endsWith(`_${aspect}`)) {
      const of = inputs.indexOf(name.slice(0, -aspect.length - 1))
      if (of >= 0) return { index: of, aspect }
    }
  return null
}
