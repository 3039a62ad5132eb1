import { protocolOf, type LinkKind } from '../links/registry'
import { pathProblem as jsonPathProblem } from '../mqtt/payload'
import { readExpression } from './expression'
import { wayProblem } from '../files/settings'
import { inputAspects, isGiven } from './names'
import { outletFactsOf, type OutletKind } from '../outlets/registry'
import { bringsMessage, type BridgeDraft, type Destination, type Input, type MessageDestination, type Trigger } from './settings'
import { readTemplate } from './template'

/** What is wrong with one field of a bridge. */
export interface BridgeProblem {
  path: string
  message: string
}

/** What is known of the links and outlets that a bridge may name. */
export interface KnownPlaces {
  link(id: number): { name: string; kind: LinkKind } | undefined
  outlet(id: number): { name: string; kind: OutletKind } | undefined
}

/** Everything wrong with a bridge that its contract cannot tell: names, formulas, and whether links do what is wanted of them. */
export const bridgeProblems = ({ when, take, send }: BridgeDraft, known: KnownPlaces): BridgeProblem[] => [
  ...when.flatMap((trigger, i) => triggerProblems(trigger, `when.${i}`, known)),
  ...take.flatMap((input, i) => inputProblems(input, i, take, when)),
  ...send.flatMap((destination, i) =>
    destinationProblems(
      destination,
      `send.${i}`,
      take.map(({ name }) => name),
      known,
    ),
  ),
  ...repeated(send.map(({ number }) => number)).map((i) => ({ path: `send.${i}.number`, message: 'Two destinations have this number.' })),
]

const repeated = <T>(all: readonly T[]): number[] => all.flatMap((one, i) => (all.indexOf(one) < i ? [i] : []))

const linkProblem = (id: number, path: string, { link }: KnownPlaces, wanted: 'messages' | 'topic' | 'table' | 'file'): BridgeProblem[] => {
  const known = link(id)
  if (!known) return [{ path, message: 'This link is not there.' }]
  const { capabilities, title } = protocolOf(known.kind)
  if (wanted === 'messages' ? capabilities.messages : capabilities.receives === wanted) return []
  const what = { messages: 'brings no messages', topic: 'takes no messages', table: 'takes no rows', file: 'takes no lines' }[wanted]
  return [{ path, message: `“${known.name}” ${what}: it speaks ${title}.` }]
}

const outletProblem = (id: number, path: string, { outlet }: KnownPlaces): BridgeProblem[] => {
  const known = outlet(id)
  if (!known) return [{ path, message: 'This outlet is not there.' }]
  const { capabilities, title } = outletFactsOf(known.kind)
  return capabilities.messages ? [] : [{ path, message: `“${known.name}” takes and brings no messages: it is an ${title}.` }]
}

const triggerProblems = (trigger: Trigger, path: string, known: KnownPlaces): BridgeProblem[] => {
  if (trigger.kind === 'message') return linkProblem(trigger.linkId, `${path}.linkId`, known, 'messages')
  return trigger.kind === 'client' ? outletProblem(trigger.outletId, `${path}.outletId`, known) : []
}

const inputProblems = (input: Input, i: number, all: readonly Input[], when: readonly Trigger[]): BridgeProblem[] => {
  const path = `take.${i}`
  const { name } = input
  const others = all.filter((other) => other !== input).map((other) => other.name)
  const problems: BridgeProblem[] = []
  if (isGiven(name)) problems.push({ path: `${path}.name`, message: `“${name}” has a meaning of its own here; choose another name.` })
  if (all.findIndex((other) => other.name === name) < i) problems.push({ path: `${path}.name`, message: 'Another input has this name.' })
  if (inputAspects.some((aspect) => others.some((other) => name === `${other}_${aspect}`)))
    problems.push({ path: `${path}.name`, message: 'This is what something of another input is called.' })
  if (input.kind === 'tag') problems.push(...templateProblem(input.path, `${path}.path`, []))
  if (input.kind === 'member') problems.push(...memberProblems(input.path, `${path}.path`, when))
  return problems
}

const memberProblems = (member: string, path: string, when: readonly Trigger[]): BridgeProblem[] => {
  const problem = jsonPathProblem(member)
  if (problem) return [{ path, message: problem }]
  return when.some(bringsMessage) ? [] : [{ path, message: 'No message sets this bridge off, so there is none to look into.' }]
}

const templateProblem = (text: string, path: string, inputs: readonly string[]): BridgeProblem[] => {
  const read = readTemplate(text, inputs)
  return read.ok ? [] : [{ path, message: read.problem }]
}

const destinationProblems = (destination: Destination, path: string, inputs: readonly string[], known: KnownPlaces): BridgeProblem[] => {
  const { kind, fields } = destination
  const problems: BridgeProblem[] = fields.flatMap(({ from }, i) => {
    const read = readExpression(from, inputs)
    return read.ok ? [] : [{ path: `${path}.fields.${i}.from`, message: read.problem }]
  })
  for (const i of repeated(fields.map(({ into }) => into)))
    problems.push({ path: `${path}.fields.${i}.into`, message: 'Another field goes into the same.' })
  if (kind === 'tags') return [...problems, ...fields.flatMap(({ into }, i) => templateProblem(into, `${path}.fields.${i}.into`, inputs))]
  if (kind === 'outlet') problems.push(...outletProblem(destination.outletId, `${path}.outletId`, known))
  else problems.push(...linkProblem(destination.linkId, `${path}.linkId`, known, kind))
  if (kind === 'topic' || kind === 'outlet') problems.push(...topicProblems(destination, path, inputs))
  if (kind === 'table') problems.push(...tableProblems(destination, path))
  if (kind === 'file') problems.push(...fileProblems(destination, path, inputs))
  return problems
}

const topicProblems = ({ topic, form, fields }: MessageDestination, path: string, inputs: readonly string[]) => {
  const problems = templateProblem(topic, `${path}.topic`, inputs)
  if (/[+#]/.test(topic.replace(/\{[^}]*\}/g, '')))
    problems.push({ path: `${path}.topic`, message: 'Messages go to one topic: no “+” and no “#”.' })
  if (form === 'plain' && fields.length > 1) problems.push({ path: `${path}.fields.1.into`, message: 'A plain payload is one value.' })
  return problems
}

const tableProblems = ({ how, key, fields }: Extract<Destination, { kind: 'table' }>, path: string): BridgeProblem[] => {
  if (how === 'insert') return []
  if (key.length === 0) return [{ path: `${path}.key`, message: 'By which columns is a row found again?' }]
  const columns = fields.map(({ into }) => into)
  const missing = key.filter((column) => !columns.includes(column))
  if (missing.length > 0) return [{ path: `${path}.key`, message: `Nothing goes into ${missing.join(', ')}.` }]
  const isAll = how === 'update' && columns.every((column) => key.includes(column))
  return isAll ? [{ path: `${path}.key`, message: 'There is nothing to update besides the key.' }] : []
}

const fileProblems = ({ name }: Extract<Destination, { kind: 'file' }>, path: string, inputs: readonly string[]): BridgeProblem[] => {
  const problem = wayProblem(name)
  return problem ? [{ path: `${path}.name`, message: problem }] : templateProblem(name, `${path}.name`, inputs)
}
