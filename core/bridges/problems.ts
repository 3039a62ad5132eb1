import { callProblem } from '../http/call'
import type { HttpSettings } from '../http/settings'
import { protocolOf, type LinkKind } from '../links/registry'
import { pathProblem as jsonPathProblem } from '../messages/payload'
import { readExpression } from './expression'
import { wayProblem } from '../files/settings'
import { listedInput } from './each'
import { inputAspects, isGiven, scopeOf, type Scope } from './names'
import { formulaFunctions } from '../formulas/functions'
import { readStatement } from './statement'
import { outletFactsOf, type OutletKind } from '../outlets/registry'
import type { LookUp } from './lookUps'
import {
  bringsMessage,
  type BridgeDraft,
  type Destination,
  type Field,
  type FileTrigger,
  type Input,
  type MessageDestination,
  type Trigger,
} from './settings'
import { readTemplate } from './template'

/** What is wrong with one field of a bridge. */
export interface BridgeProblem {
  path: string
  message: string
}

/** What is known of the links and outlets that a bridge may name. */
export interface KnownPlaces {
  link(id: number): { name: string; kind: LinkKind; settings: unknown; nodeId: number | null } | undefined
  outlet(id: number): { name: string; kind: OutletKind; nodeId: number | null } | undefined
}

/** And on which node the bridge runs; null: on none. */
interface Around extends KnownPlaces {
  nodeId: number | null
}

/** Everything wrong with a bridge that its contract cannot tell: names, formulas, and whether links do what is wanted of them. */
export const bridgeProblems = ({ nodeId, ...draft }: BridgeDraft, places: KnownPlaces): BridgeProblem[] =>
  problemsOn(draft, { ...places, nodeId })

const problemsOn = ({ when, take, lookUps, send }: Omit<BridgeDraft, 'nodeId'>, known: Around): BridgeProblem[] => [
  ...when.flatMap((trigger, i) => triggerProblems(trigger, `when.${i}`, known)),
  ...take.flatMap((input, i) => inputProblems(input, i, { when, take, lookUps }, known)),
  ...take.flatMap((input, i) =>
    'each' in input && input.each && listedInput(take) < i ? [{ path: `take.${i}.each`, message: 'One input makes rows already.' }] : [],
  ),
  ...lookUps.flatMap((lookUp, i) => lookUpProblems(lookUp, i, lookUps)),
  ...send.flatMap((destination, i) => destinationProblems(destination, `send.${i}`, scopeOf({ take, lookUps }), known)),
  ...repeated(send.map(({ number }) => number)).map((i) => ({ path: `send.${i}.number`, message: 'Two destinations have this number.' })),
]

const repeated = <T>(all: readonly T[]): number[] => all.flatMap((one, i) => (all.indexOf(one) < i ? [i] : []))

/** What may be wanted of a link, what it has to be able to, and what is said where it is not. */
const lacks = {
  messages: { needs: 'messages', text: 'brings no messages' },
  topic: { needs: 'topic', text: 'takes no messages' },
  table: { needs: 'table', text: 'takes no rows' },
  file: { needs: 'file', text: 'takes no lines' },
  call: { needs: 'call', text: 'takes no calls' },
  rows: { needs: 'table', text: 'gives no rows' },
  lines: { needs: 'file', text: 'has no files' },
} as const

const elsewhere = (name: string, path: string): BridgeProblem[] => [
  { path, message: `“${name}” runs on another machine than this bridge: let both run on the same.` },
]

const linkProblem = (id: number, path: string, { link, nodeId }: Around, wanted: keyof typeof lacks): BridgeProblem[] => {
  const known = link(id)
  if (!known) return [{ path, message: 'This link is not there.' }]
  const { capabilities, title } = protocolOf(known.kind)
  const { needs, text } = lacks[wanted]
  if (needs === 'messages' ? capabilities.messages : capabilities.receives === needs)
    return known.nodeId === nodeId ? [] : elsewhere(known.name, path)
  return [{ path, message: `“${known.name}” ${text}: it speaks ${title}.` }]
}

const outletProblem = (id: number, path: string, { outlet, nodeId }: Around, wanted: 'messages' | 'sends'): BridgeProblem[] => {
  const known = outlet(id)
  if (!known) return [{ path, message: 'This outlet is not there.' }]
  const { capabilities, title } = outletFactsOf(known.kind)
  if (capabilities[wanted]) return known.nodeId === nodeId ? [] : elsewhere(known.name, path)
  return [{ path, message: `“${known.name}” ${wanted === 'sends' ? 'hands on' : 'brings'} no messages: it is an ${title}.` }]
}

const triggerProblems = (trigger: Trigger, path: string, known: Around): BridgeProblem[] => {
  if (trigger.kind === 'message') return linkProblem(trigger.linkId, `${path}.linkId`, known, 'messages')
  if (trigger.kind === 'file') return fileTriggerProblems(trigger, path, known)
  return trigger.kind === 'client' ? outletProblem(trigger.outletId, `${path}.outletId`, known, 'messages') : []
}

const fileTriggerProblems = (trigger: FileTrigger, path: string, known: Around): BridgeProblem[] => [
  ...linkProblem(trigger.linkId, `${path}.linkId`, known, 'lines'),
  ...(trigger.form === 'csv' && trigger.delimiter === ',' && trigger.decimal === ','
    ? [{ path: `${path}.decimal`, message: 'A decimal comma needs another delimiter.' }]
    : []),
]

const lookUpProblems = ({ name, rows }: LookUp, i: number, all: readonly LookUp[]): BridgeProblem[] => {
  const path = `lookUps.${i}`
  const twice = repeated(rows.map(({ is }) => is)).map((row) => ({
    path: `${path}.rows.${row}.is`,
    message: 'Another row is for the same.',
  }))
  if (Object.hasOwn(formulaFunctions, name)) return [...twice, { path: `${path}.name`, message: `“${name}” is a function already.` }]
  const isFirst = all.findIndex((other) => other.name === name) === i
  return isFirst ? twice : [...twice, { path: `${path}.name`, message: 'Another look-up table has this name.' }]
}

type Parts = Pick<BridgeDraft, 'when' | 'take' | 'lookUps'>

const inputProblems = (input: Input, i: number, { when, take: all, lookUps }: Parts, known: Around): BridgeProblem[] => {
  const path = `take.${i}`
  const { name } = input
  const scope = scopeOf({ take: all.slice(0, i), lookUps })
  const others = all.filter((other) => other !== input).map((other) => other.name)
  const problems: BridgeProblem[] = []
  if (isGiven(name)) problems.push({ path: `${path}.name`, message: `“${name}” has a meaning of its own here; choose another name.` })
  if (all.findIndex((other) => other.name === name) < i) problems.push({ path: `${path}.name`, message: 'Another input has this name.' })
  if (inputAspects.some((aspect) => others.some((other) => name === `${other}_${aspect}`)))
    problems.push({ path: `${path}.name`, message: 'This is what something of another input is called.' })
  if (input.kind === 'tag') problems.push(...templateProblem(input.path, `${path}.path`, { inputs: [], lookUps }))
  if (input.kind === 'query') problems.push(...queryProblems(input, path, scope, known))
  if (input.kind === 'call') problems.push(...askedCallProblems(input, path, scope, known))
  if (input.kind === 'member') problems.push(...memberProblems(input.path, `${path}.path`, when))
  return problems
}

/** What stands in braces may name the inputs before it. */
const queryProblems = ({ linkId, statement }: Extract<Input, { kind: 'query' }>, path: string, scope: Scope, known: Around) => {
  const read = readStatement(statement, scope)
  return [
    ...linkProblem(linkId, `${path}.linkId`, known, 'rows'),
    ...(read.ok ? [] : [{ path: `${path}.statement`, message: read.problem }]),
  ]
}

/** A call is made with what the inputs before it have. */
const askedCallProblems = (input: Extract<Input, { kind: 'call' }>, path: string, scope: Scope, known: Around): BridgeProblem[] => {
  const way = input.path === '' ? null : jsonPathProblem(input.path)
  return [
    ...callProblems(input.linkId, input.operation, input.given, path, known),
    ...fieldProblems(input.given, `${path}.given`, scope),
    ...(way ? [{ path: `${path}.path`, message: way }] : []),
  ]
}

/** Whether the link has such an operation, and each of its parameters is given. */
const callProblems = (linkId: number, operation: string, given: readonly Field[], path: string, known: Around): BridgeProblem[] => {
  const problems = linkProblem(linkId, `${path}.linkId`, known, 'call')
  const link = known.link(linkId)
  if (problems.length > 0 || !link) return problems
  const call = { operation, given: Object.fromEntries(given.map(({ into }) => [into, ''])) }
  const message = callProblem(call, (link.settings as HttpSettings).operations)
  return message === null ? [] : [{ path: `${path}.operation`, message }]
}

/** Expressions that cannot be read, and fields that go into the same. */
const fieldProblems = (fields: readonly Field[], path: string, scope: Scope): BridgeProblem[] => [
  ...fields.flatMap(({ from }, i) => {
    const read = readExpression(from, scope)
    return read.ok ? [] : [{ path: `${path}.${i}.from`, message: read.problem }]
  }),
  ...repeated(fields.map(({ into }) => into)).map((i) => ({ path: `${path}.${i}.into`, message: 'Another field goes into the same.' })),
]

const memberProblems = (member: string, path: string, when: readonly Trigger[]): BridgeProblem[] => {
  const problem = jsonPathProblem(member)
  if (problem) return [{ path, message: problem }]
  return when.some(bringsMessage) ? [] : [{ path, message: 'No message and no line sets this bridge off, so there is none to look into.' }]
}

const templateProblem = (text: string, path: string, scope: Scope): BridgeProblem[] => {
  const read = readTemplate(text, scope)
  return read.ok ? [] : [{ path, message: read.problem }]
}

const destinationProblems = (destination: Destination, path: string, scope: Scope, known: Around): BridgeProblem[] => {
  const { kind, fields } = destination
  const problems = fieldProblems(fields, `${path}.fields`, scope)
  if (kind === 'tags') return [...problems, ...fields.flatMap(({ into }, i) => templateProblem(into, `${path}.fields.${i}.into`, scope))]
  if (kind === 'outlet') problems.push(...outletProblem(destination.outletId, `${path}.outletId`, known, 'sends'))
  else if (kind === 'call') problems.push(...callProblems(destination.linkId, destination.operation, fields, path, known))
  else problems.push(...linkProblem(destination.linkId, `${path}.linkId`, known, kind))
  if (kind === 'topic' || kind === 'outlet') problems.push(...topicProblems(destination, path, scope))
  if (kind === 'table') problems.push(...tableProblems(destination, path))
  if (kind === 'file') problems.push(...fileProblems(destination, path, scope))
  return problems
}

const topicProblems = ({ topic, form, fields }: MessageDestination, path: string, scope: Scope) => {
  const problems = templateProblem(topic, `${path}.topic`, scope)
  if (/[+#]/.test(topic.replace(/\{[^}]*\}/g, '')))
    problems.push({ path: `${path}.topic`, message: 'Messages go to one topic: no “+” and no “#”.' })
  if (form === 'plain' && fields.length > 1) problems.push({ path: `${path}.fields.1.into`, message: 'A plain payload is one value.' })
  return problems
}

const tableProblems = ({ how, key, fields, parts }: Extract<Destination, { kind: 'table' }>, path: string): BridgeProblem[] => {
  if (how === 'call') return parts ? [{ path: `${path}.how`, message: 'A procedure has no parts.' }] : []
  const isParted = parts !== null && !fields.some(({ into }) => into === parts.column)
  if (isParted) return [{ path: `${path}.parts.column`, message: 'Nothing goes into this column.' }]
  if (how === 'insert') return []
  if (key.length === 0) return [{ path: `${path}.key`, message: 'By which columns is a row found again?' }]
  const columns = fields.map(({ into }) => into)
  const missing = key.filter((column) => !columns.includes(column))
  if (missing.length > 0) return [{ path: `${path}.key`, message: `Nothing goes into ${missing.join(', ')}.` }]
  const isAll = how === 'update' && columns.every((column) => key.includes(column))
  return isAll ? [{ path: `${path}.key`, message: 'There is nothing to update besides the key.' }] : []
}

const fileProblems = ({ name }: Extract<Destination, { kind: 'file' }>, path: string, scope: Scope): BridgeProblem[] => {
  const problem = wayProblem(name)
  return problem ? [{ path: `${path}.name`, message: problem }] : templateProblem(name, `${path}.name`, scope)
}
