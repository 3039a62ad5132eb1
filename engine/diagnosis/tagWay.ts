import type { PointFacts } from '#core/diagnosis/point'
import { fault, type Fault } from '#core/faults/catalogue'
import { partWord, protocolOf } from '#core/links/registry'
import { outletFactsOf } from '#core/outlets/registry'
import { isGood, quality, qualityText } from '#core/tags/quality'
import { pathMatcher } from '#core/tags/pattern'
import { isTagTrigger } from '#core/bridges/triggers'
import { ageText } from '#core/text/duration'
import { counted } from '#core/text/counted'
import { valueText } from '#core/text/number'
import type { Bridge } from '#shared/bridges/bridge'
import { isFrom } from '#shared/sources/registry'
import type { CheckStep, OutletStatus } from '#shared/status'
import type { Engine } from '../engine'
import type { LinkRunner } from '../links/linkRunner'
import type { OutletRunner } from '../outlets/outletRunner'
import type { RegisteredTag } from '../tags/tagRegister'
import { partStep } from './freshness'
import { outletSteps } from './outletWay'
import { lookAtPoint, pointNotReached, type PointTag } from './pointLook'

/** A value made of values made of values: so deep it is followed. */
const deepest = 16
/** So many bridges and outlets that take it are looked at. */
const mostTakers = 6

interface Around {
  engine: Engine
  /** The path of a link as it is. */
  linkSteps(id: number, runner: LinkRunner): AsyncGenerator<CheckStep>
  /** What was found out about the point by itself. */
  found(facts: PointFacts): void
}

/** The link that a tag’s value comes over in the end; null: over none. */
export const linkUnder = (engine: Engine, tag: RegisteredTag): number | null => {
  const { source } = wayOf(engine, tag).chain[0]!
  if (source.kind === 'point') return source.linkId
  return source.kind === 'record' ? (engine.wanted.things.recordSet.get(source.recordSetId)?.linkId ?? null) : null
}

/** The way of a value: from the far side, through what is made of it, to whoever gets it. */
export async function* tagSteps(tag: RegisteredTag, around: Around): AsyncGenerator<CheckStep> {
  const { engine } = around
  const { chain, missing } = wayOf(engine, tag)
  let broken = false
  const noted = (step: CheckStep): CheckStep => {
    broken ||= step.fault !== null
    return step
  }
  if (missing !== null) yield noted(missingStep(missing, chain[0]!))
  else for await (const step of sourceSteps(chain[0]!, around)) yield noted(step)
  for (const one of chain) yield noted(hereStep(engine, one, broken))
  for (const bridge of takenBy(engine, tag.path)) yield noted(bridgeStep(engine, bridge))
  for (const [id, outlet] of showing(engine, tag.path)) for await (const step of takerSteps(id, outlet)) yield noted(step)
}

/**
 * Where its value comes from: the tags from the source to this one. Of several inputs the one that is to blame: the first
 * that is not there, else the first that is not good, else the first.
 */
const wayOf = (engine: Engine, tag: RegisteredTag): { chain: RegisteredTag[]; missing: string | null } => {
  const chain = [tag]
  while (chain.length < deepest) {
    const [first] = chain as [RegisteredTag]
    const paths = engine.inputsOf(first)
    if (paths.length === 0) break
    const tags = paths.map((path) => engine.tags.byPath(path))
    const gone = tags.findIndex((one) => one === undefined)
    if (gone >= 0) return { chain, missing: paths[gone]! }
    const next = tags.find((one) => !isGood(engine.table.quality[one!.handle]!)) ?? tags[0]!
    if (chain.includes(next)) break
    chain.unshift(next)
  }
  return { chain, missing: null }
}

const missingStep = (path: string, reader: RegisteredTag): CheckStep => {
  const why = fault('tag.gone', { path, reader: reader.path })
  return {
    step: 'missing',
    title: path,
    flow: 'broken',
    evidence: why.what,
    ms: null,
    fault: why,
    joint: 'tag',
    about: { subject: 'tag', id: reader.id },
  }
}

async function* sourceSteps(tag: RegisteredTag, around: Around): AsyncGenerator<CheckStep> {
  if (isFrom('point', tag)) return yield* pointSteps(tag, around)
  const { source } = tag
  if (source.kind !== 'record')
    return yield { ...plain(`source-${tag.id}`, 'Source'), evidence: sourceWords[source.kind] ?? 'here', joint: 'point' }
  const { engine } = around
  const set = engine.records.get(source.recordSetId)
  const link = set && engine.link(set.linkId)
  if (link) yield* ofLink(around.linkSteps(set.linkId, link), set.linkId, link.name)
  if (!set) return
  const { flow, sentence, fault: why } = set.status()
  const { name } = engine.wanted.things.recordSet.get(source.recordSetId) ?? { name: 'Record set' }
  yield {
    step: 'set',
    title: name,
    flow,
    evidence: sentence,
    ms: null,
    fault: why,
    joint: 'point',
    about: { subject: 'recordSet', id: source.recordSetId },
  }
}

const sourceWords: Partial<Record<RegisteredTag['source']['kind'], string>> = {
  memory: 'kept in the memory of the engine: it is what was written last',
  constant: 'a constant',
  signal: 'a made-up signal, for trying things',
  formula: 'a formula without inputs',
  property: 'a property of equipment',
}

async function* pointSteps(tag: PointTag, around: Around): AsyncGenerator<CheckStep> {
  const { engine } = around
  const { linkId } = tag.source
  const link = engine.link(linkId)
  if (!link) return
  let stopped = false
  for await (const step of ofLink(around.linkSteps(linkId, link), linkId, link.name)) {
    stopped ||= step.fault !== null
    yield step
  }
  const part = stopped ? null : partOf(tag, link)
  const ofPoint = { joint: 'point', group: `Its point, ${tag.source.address}` } as const
  if (part) yield { ...part, ...ofPoint, about: { subject: 'link', id: linkId } }
  if (stopped || part?.fault) return yield* pointNotReached().map((step) => ({ ...step, ...ofPoint }))
  for await (const step of lookAtPoint(tag, { link, table: engine.table, tags: engine.tags }, around.found)) yield { ...step, ...ofPoint }
}

/** The unit or device that it is on, where that gives nothing. */
const partOf = ({ source }: PointTag, link: LinkRunner): CheckStep | null => {
  const facts = protocolOf(link.kind).describe(source.address, link.draft.settings)
  const unit = facts.ok ? facts.unit : null
  const found = unit === null ? undefined : link.status().units?.find((one) => one.unit === unit)
  if (!found || (found.flow !== 'broken' && found.flow !== 'late')) return null
  const step = partStep(found, partWord(link.kind))
  // one that is merely slow answers, and what it gives comes late at the worst
  return found.isSlow ? { ...step, fault: null } : step
}

async function* ofLink(steps: AsyncGenerator<CheckStep>, id: number, name: string): AsyncGenerator<CheckStep> {
  for await (const step of steps) yield { ...step, joint: 'link', group: name, about: { subject: 'link', id } }
}

/** What a tag has here. Where it is bad and nothing before it is, what makes it says why. */
const hereStep = (engine: Engine, tag: RegisteredTag, broken: boolean): CheckStep => {
  const { table } = engine
  const { handle, path } = tag
  const code = table.quality[handle]!
  const value = valueText(table.values[handle], tag.passedOn)
  const age = table.seenAt[handle] ? `, seen ${ageText(Date.now() - table.seenAt[handle]!)}` : ''
  const waits = code === quality.BadWaitingForInitialData
  const why = isGood(code) || broken || waits ? null : whyBad(engine, tag, code)
  return {
    ...plain(`tag-${tag.id}`, path),
    flow: isGood(code) ? 'flowing' : waits && !broken ? 'waiting' : 'broken',
    evidence: `${value} ${tag.unit}`.trim() + ` · ${qualityText(code)}${age}`,
    fault: why,
    joint: 'tag',
    group: 'Here',
    about: { subject: 'tag', id: tag.id },
  }
}

const whyBad = (engine: Engine, tag: RegisteredTag, code: number): Fault =>
  engine.origin(tag.id)?.fault ?? fault('tag.not-good', { path: tag.path, quality: qualityText(code) })

const plain = (step: string, title: string): CheckStep => ({ step, title, flow: 'flowing', evidence: '', ms: null, fault: null })

const takenBy = (engine: Engine, path: string): Bridge[] =>
  [...engine.wanted.things.bridge.values()].filter((bridge) => takes(bridge, path)).slice(0, mostTakers)

const takes = ({ when, take }: Bridge, path: string): boolean =>
  when.some((trigger) => (isTagTrigger(trigger) || trigger.kind === 'alarm') && matches(trigger.tag, path)) ||
  take.some((input) => input.kind === 'tag' && (input.path === path || (input.path.includes('{') && matches(withGaps(input.path), path))))

const matches = (pattern: string, path: string) => pattern === path || (pattern.includes('*') && pathMatcher(pattern)(path))
/** What stands in braces differs from run to run. */
const withGaps = (path: string) => path.replace(/\{[^}]*\}/g, '*')

const bridgeStep = (engine: Engine, { id, name }: Bridge): CheckStep => {
  const status = engine.bridges.get(id)?.status()
  return {
    ...plain(`bridge-${id}`, name),
    flow: status?.flow ?? 'off',
    evidence: status?.sentence ?? 'not in force',
    fault: status?.flow === 'flowing' ? null : (status?.fault ?? null),
    joint: 'bridge',
    group: 'Bridges that take it',
    about: { subject: 'bridge', id },
  }
}

const showing = (engine: Engine, path: string): [number, OutletRunner][] =>
  [...engine.allOutlets()].filter(([, outlet]) => outlet.shows(path)).slice(0, mostTakers)

/** What the outlet says of itself, a client of our own at each of its doors, and who is there. */
async function* takerSteps(id: number, outlet: OutletRunner): AsyncGenerator<CheckStep> {
  const status = outlet.status()
  const shared = { joint: 'outlet', group: outlet.name, about: { subject: 'outlet', id } } as const
  const isSound = status.fault === null && status.flow !== 'broken'
  const { flow, sentence: evidence } = status
  yield { ...plain(`outlet-${id}`, 'Outlet'), flow, evidence, fault: isSound ? null : status.fault, ...shared }
  if (status.flow === 'off' || !isSound) return
  const began = performance.now()
  const came = await comeIn(outlet)
  yield { ...plain(`door-${id}`, 'A client of ours'), ...came, ms: performance.now() - began, ...shared }
  if (outletFactsOf(outlet.kind).capabilities.clients) yield { ...clientsStep(id, status), group: outlet.name }
}

/** To all of its doors, until one of them does not let us in. */
const comeIn = async (outlet: OutletRunner): Promise<Pick<CheckStep, 'flow' | 'evidence' | 'fault'>> => {
  let sound = 0
  for await (const { title, evidence, fault: why, flow } of outletSteps(outlet)) {
    if (why) return { flow: 'broken', evidence: `${title}: ${evidence}`, fault: why }
    if (flow === 'flowing') sound++
  }
  if (sound === 0) return { flow: 'waiting', evidence: 'no door is open yet', fault: null }
  return { flow: 'flowing', evidence: 'comes in as others do, and is answered', fault: null }
}

const clientsStep = (id: number, { clients }: Pick<OutletStatus, 'clients'>): CheckStep => {
  const shared = { ...plain(`clients-${id}`, 'Its clients'), joint: 'consumer' as const }
  if (clients.length === 0) return { ...shared, flow: 'waiting', evidence: 'nobody is connected now' }
  const troubled = clients.filter(({ flow }) => flow !== 'flowing')
  const [first] = troubled
  const told = first ? `; ${first.name}: ${first.refused?.text ?? first.lastGot}` : ''
  return {
    ...shared,
    flow: troubled.length === clients.length ? 'late' : 'flowing',
    evidence: `${counted(clients.length, 'client')}, ${clients.length - troubled.length} of them served${told}`,
  }
}
