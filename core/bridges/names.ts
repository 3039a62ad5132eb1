import type { LookUp } from './lookUps'
import type { Input } from './settings'

/** What expressions and templates of a bridge may name besides its inputs. */
export interface GivenName {
  name: string
  about: string
  /** What has to set the bridge off so that there is anything; absent: it is always there. */
  by?: 'tag' | 'message' | 'file'
}

export const mostParts = 12

export const givenNames: readonly GivenName[] = [
  { name: 'value', about: 'the value of the tag that set it off', by: 'tag' },
  { name: 'quality', about: 'its quality, as an OPC UA status code; 0 is good', by: 'tag' },
  { name: 'unit', about: 'its engineering unit', by: 'tag' },
  { name: 'value_name', about: 'what the value is called, where it has a name', by: 'tag' },
  { name: 'path', about: 'its path', by: 'tag' },
  { name: 'topic', about: 'the topic of the message that set it off', by: 'message' },
  { name: 'file', about: 'the file that set it off, below the folder of its link', by: 'file' },
  { name: 'payload', about: 'the payload of that message, or the line, as text', by: 'message' },
  ...Array.from({ length: mostParts }, (_, i) => ({ name: `part${i + 1}`, about: `level ${i + 1} of that path, topic or file` })),
  { name: 'time', about: 'when it was set off: the source time of the tag, or when the message or line came' },
  { name: 'now', about: 'when the run began' },
  { name: 'run', about: 'the number of the run' },
  { name: 'row', about: 'which of the rows of the run this is, counted from 1' },
  { name: 'site', about: 'the name of the site' },
  { name: 'bridge', about: 'the name of the bridge' },
  { name: 'worst', about: 'the worst quality of all inputs, as an OPC UA status code' },
]

const given = new Set(givenNames.map(({ name }) => name))
export const isGiven = (name: string) => given.has(name)

/** Of each input `a` there are also `a_quality`, `a_time`, `a_unit` and `a_value_name`. */
export const inputAspects = ['quality', 'time', 'unit', 'value_name'] as const
export type InputAspect = (typeof inputAspects)[number]

/** What the expressions of a bridge may name of its own: inputs in their order, and look-up tables. */
export interface Scope {
  inputs: readonly { name: string; hasParts: boolean }[]
  lookUps: readonly LookUp[]
}

export const scopeOf = ({ take, lookUps }: { take: readonly Input[]; lookUps: readonly LookUp[] }): Scope => ({
  inputs: take.map(({ name, kind }) => ({ name, hasParts: kind === 'member' || kind === 'query' || kind === 'call' })),
  lookUps,
})

const ofTags = new Set<InputAspect>(['unit', 'value_name'])

export interface NamedInput {
  index: number
  aspect: InputAspect | null
  /** Of a row or an object, the way to a part of it, as it is written behind the name; null: the whole. */
  part: string | null
}

/** Which input a name stands for, and what of it; null: it is none of these. */
export const inputNamed = (name: string, inputs: Scope['inputs']): NamedInput | null => {
  const whole = inputs.findIndex((input) => input.name === name)
  if (whole >= 0) return { index: whole, aspect: null, part: null }
  // of two that could be meant, the longer name
  const [index] = inputs
    .map((input, i) => ({ i, length: input.name.length, fits: name.startsWith(`${input.name}_`) }))
    .filter(({ fits }) => fits)
    .sort((a, b) => b.length - a.length)
    .map(({ i }) => i)
  if (index === undefined) return null
  const rest = name.slice(inputs[index]!.name.length + 1)
  const aspect = inputAspects.find((one) => one === rest)
  const { hasParts } = inputs[index]!
  // rows and objects have no unit and no names: a part that is called so is meant
  if (aspect && !(hasParts && ofTags.has(aspect))) return { index, aspect, part: null }
  return hasParts ? { index, aspect: null, part: rest } : null
}
