import { isTagTrigger } from '#core/bridges/triggers'
import { destinationText, triggerText, type PlaceName } from '#core/bridges/words'
import type { Destination, Trigger } from '#core/bridges/settings'
import { fault, type Fault } from '#core/faults/catalogue'
import { isGood, qualityText } from '#core/tags/quality'
import { counted } from '#core/text/counted'
import { ageText, duration } from '#core/text/duration'
import type { Bridge } from '#shared/bridges/bridge'
import type { BridgePreview } from '#shared/bridges/preview'
import type { BridgeRun, BridgeStatus } from '#shared/bridges/status'
import type { CheckStep } from '#shared/status'
import type { BridgeRunner } from '../bridges/bridgeRunner'
import type { Engine } from '../engine'
import type { TableUse } from '../links/driver'
import type { LinkRunner } from '../links/linkRunner'

interface Around {
  engine: Engine
  /** @param uses what is wanted of a database there */
  linkSteps(id: number, runner: LinkRunner, uses: readonly TableUse[]): AsyncGenerator<CheckStep>
}

type Rest = Pick<CheckStep, 'flow' | 'evidence'> & Partial<CheckStep>
const stepOf = (step: string, title: string, rest: Rest): CheckStep => ({ step, title, ms: null, fault: null, ...rest })
const failed = (step: string, title: string, why: Fault, more: Partial<CheckStep> = {}): CheckStep =>
  stepOf(step, title, { flow: 'broken', evidence: why.evidence || why.what, fault: why, ...more })

/** The way of a record: from what sets the bridge off to what each receiver said of the last one. Nothing is sent for it. */
export async function* bridgeSteps(bridge: Bridge, runner: BridgeRunner, around: Around): AsyncGenerator<CheckStep> {
  const { engine } = around
  const status = runner.status()
  if (status.flow === 'off') return yield failed('on', 'Switched on', fault('bridge.off', { name: bridge.name }))
  const runs = runner.lookedAt()
  const seen = new Set<number>()
  for (const [index, trigger] of bridge.when.entries()) yield triggerStep(index, trigger, engine)
  yield lastRunStep(status, runs)
  const preview = await engine.bridges.preview(bridge, bridge.id, null)
  yield inputsStep(preview, bridge)
  for (const [index, destination] of bridge.send.entries())
    yield* destinationSteps(destination, { ...around, preview: preview.destinations[index], status, runs, seen, bridge })
}

const placeName =
  (engine: Engine): PlaceName =>
  (of, id) =>
    engine[of](id)?.name ?? `${of} ${id}`

const triggerStep = (index: number, trigger: Trigger, engine: Engine): CheckStep => {
  const [step, title] = [`when-${index}`, `When ${triggerText(trigger, placeName(engine))}`]
  if (isTagTrigger(trigger)) return tagTriggerStep(step, title, trigger.tag, engine)
  if (trigger.kind === 'message' || trigger.kind === 'file') {
    const link = engine.link(trigger.linkId)
    if (!link) return failed(step, title, fault('entry.gone', { thing: 'link', id: trigger.linkId }), { joint: 'link' })
    const { flow, sentence, fault: why } = link.status()
    const about = { subject: 'link', id: trigger.linkId } as const
    return stepOf(step, title, { flow, evidence: `${link.name}: ${sentence}`, fault: isStopped(flow) ? why : null, joint: 'link', about })
  }
  if (trigger.kind === 'client') {
    const outlet = engine.outlet(trigger.outletId)
    if (!outlet) return failed(step, title, fault('entry.gone', { thing: 'outlet', id: trigger.outletId }), { joint: 'link' })
    const { flow, sentence, fault: why } = outlet.status()
    const about = { subject: 'outlet', id: trigger.outletId } as const
    return stepOf(step, title, {
      flow,
      evidence: `${outlet.name}: ${sentence}`,
      fault: isStopped(flow) ? why : null,
      joint: 'outlet',
      about,
    })
  }
  return stepOf(step, title, { flow: 'flowing', evidence: 'looked out for', joint: 'bridge' })
}

const isStopped = (flow: CheckStep['flow']) => flow === 'broken' || flow === 'off'

const tagTriggerStep = (step: string, title: string, path: string, engine: Engine): CheckStep => {
  if (path.includes('*'))
    return stepOf(step, title, { flow: 'flowing', evidence: 'looked out for at all that go by this pattern', joint: 'tag' })
  const tag = engine.tags.byPath(path)
  if (!tag) return failed(step, title, fault('bridge.no-tag', { path }), { joint: 'tag' })
  const { table } = engine
  const code = table.quality[tag.handle]!
  const more = { joint: 'tag', about: { subject: 'tag', id: tag.id } } as const
  if (!isGood(code)) return failed(step, title, fault('bridge.bad-source', { path, quality: qualityText(code) }), more)
  return stepOf(step, title, {
    flow: 'flowing',
    evidence: `good, the same since ${ageText(Date.now() - table.sourceTime[tag.handle]!)}`,
    ...more,
  })
}

const lastRunStep = ({ runs, skipped, failed: vain, fault: recent, destinations }: BridgeStatus, [last]: BridgeRun[]): CheckStep => {
  if (!last) return stepOf('last', 'It ran', { flow: 'waiting', evidence: 'not yet since it was switched on', joint: 'bridge' })
  const came = skipped + vain > 0 ? `; ${skipped + vain} of ${counted(runs, 'run')} came to nothing` : `, ${counted(runs, 'run')}`
  const evidence = `${ageText(Date.now() - last.at)}, ${last.by === 'by hand' ? '' : 'by '}${last.by}${came}`
  const isVain = last.outcome === 'skipped' || last.outcome === 'failed'
  // one of the last runs came to nothing, whatever became of the very last
  const why = isVain ? last.fault : destinations.some((one) => one.fault) ? null : recent
  return stepOf('last', 'It ran', { flow: isVain || why ? 'late' : 'flowing', evidence, joint: 'bridge', fault: why })
}

const inputsStep = ({ fault: why, inputs, by, unknown }: BridgePreview, { take }: Bridge): CheckStep => {
  const title = 'What it takes'
  if (why) return failed('take', title, why, { joint: 'bridge' })
  const [gone] = unknown
  if (gone !== undefined) return failed('take', title, fault('bridge.no-tag', { path: gone }), { joint: 'bridge' })
  const bad = inputs.filter(({ good }) => !good)
  if (inputs.length === 0)
    return stepOf('take', title, { flow: 'waiting', evidence: take.length > 0 ? by : 'nothing but what sets it off', joint: 'bridge' })
  const evidence = bad.length > 0 ? `not good: ${bad.map(({ name }) => name).join(', ')}` : `${counted(inputs.length, 'input')} good`
  return stepOf('take', title, { flow: bad.length > 0 ? 'late' : 'flowing', evidence, joint: 'bridge' })
}

interface At extends Around {
  bridge: Bridge
  preview: BridgePreview['destinations'][number] | undefined
  status: BridgeStatus
  runs: readonly BridgeRun[]
  /** Links that were walked already. */
  seen: Set<number>
}

/** The receiver by its own path, whether what comes fits there, what waits, and what it said last. */
async function* destinationSteps(destination: Destination, at: At): AsyncGenerator<CheckStep> {
  const { engine, preview, status, runs } = at
  const { number } = destination
  let isAway = false
  for await (const step of receiverSteps(destination, at)) {
    isAway ||= step.fault !== null
    yield step
  }
  const group = destinationText(destination, placeName(engine))
  yield { ...fitStep(`${number}-fit`, preview, isAway), group }
  yield {
    ...keptStep(
      `${number}-kept`,
      status.destinations.find((one) => one.number === number),
      isAway,
    ),
    group,
  }
  yield { ...receiptStep(`${number}-receipt`, number, runs), group }
}

async function* receiverSteps(destination: Destination, at: At): AsyncGenerator<CheckStep> {
  if ('linkId' in destination) yield* linkOf(destination.linkId, destination.number, at)
  if ('outletId' in destination) yield outletOf(destination.outletId, destination.number, at.engine)
}

const outletOf = (id: number, number: number, engine: Engine): CheckStep => {
  const outlet = engine.outlet(id)
  const { flow = 'broken', sentence = 'not there', fault: why = null } = outlet?.status() ?? {}
  const more = { joint: 'receiver', about: { subject: 'outlet', id } } as const
  return stepOf(`${number}-outlet`, outlet?.name ?? 'Outlet', { flow, evidence: sentence, fault: isStopped(flow) ? why : null, ...more })
}

/** What the link is asked for is only what this bridge wants of it. */
async function* linkOf(id: number, number: number, { engine, linkSteps, seen, bridge }: At): AsyncGenerator<CheckStep> {
  const link = engine.link(id)
  const shared = { joint: 'receiver', about: { subject: 'link', id } } as const
  if (!link) return yield failed(`${number}-link`, 'Link', fault('entry.gone', { thing: 'link', id }), shared)
  if (seen.has(id)) return
  seen.add(id)
  const uses = bridge.send.flatMap((one) => (one.kind === 'table' && one.linkId === id ? [one] : []))
  for await (const step of linkSteps(id, link, uses)) yield { ...step, step: `${number}-${step.step}`, group: link.name, ...shared }
}

const fitStep = (step: string, preview: At['preview'], isAway: boolean): CheckStep => {
  const title = 'It fits'
  if (!preview) return stepOf(step, title, { flow: 'waiting', evidence: 'not known', joint: 'bridge' })
  if (preview.fault && isAway)
    return stepOf(step, title, { flow: 'waiting', evidence: 'its types are not known while it is away', joint: 'bridge' })
  if (preview.fault) return failed(step, title, preview.fault, { joint: 'consumer' })
  const unfit = preview.fields.find(({ how }) => how === 'range' || how === 'type' || how === 'null')
  if (unfit) {
    const problem = unfit.text || `${unfit.now ?? 'nothing'} does not fit ${unfit.type ?? 'there'}`
    return failed(step, title, fault('bridge.fit', { field: unfit.into, problem }), { joint: 'bridge' })
  }
  const broken = preview.fields.find(({ how, text }) => how === null && text !== '')
  if (broken) return failed(step, title, fault('bridge.field', { field: broken.into, problem: broken.text }), { joint: 'bridge' })
  const known = preview.fields.filter(({ now }) => now !== null).length
  if (known === 0)
    return stepOf(step, title, { flow: 'waiting', evidence: 'nothing that set it off is at hand to try it with', joint: 'bridge' })
  return stepOf(step, title, {
    flow: 'flowing',
    evidence: `${counted(preview.fields.length, 'field')}, as things are now`,
    joint: 'bridge',
  })
}

/** @param isAway the receiver's own steps say why already */
const keptStep = (step: string, delivery: BridgeStatus['destinations'][number] | undefined, isAway: boolean): CheckStep => {
  const title = 'What waits'
  if (!delivery) return stepOf(step, title, { flow: 'waiting', evidence: 'its way is not open yet', joint: 'bridge' })
  const { kept, oldestAt, fault: why, aside } = delivery
  const laid = aside > 0 ? `; ${counted(aside, 'record')} refused and laid aside` : ''
  const since = oldestAt === null ? '' : `, the oldest from ${ageText(Date.now() - oldestAt)}`
  const evidence = kept > 0 ? `${counted(kept, 'record')}${since}${laid}` : `nothing${laid}`
  return stepOf(step, title, {
    flow: why ? 'broken' : aside > 0 ? 'late' : 'flowing',
    evidence,
    fault: isAway ? null : why,
    joint: 'bridge',
  })
}

const receiptStep = (step: string, number: number, runs: readonly BridgeRun[]): CheckStep => {
  const title = 'Receipt'
  for (const run of runs)
    for (const sent of run.sent) {
      if (sent.number !== number || sent.outcome === 'under way' || sent.outcome === 'kept') continue
      const when = ageText(Date.now() - run.at)
      if (sent.fault) return failed(step, title, sent.fault, { joint: 'consumer', evidence: `${when}: ${sent.fault.what}` })
      const took = sent.ms === null ? '' : ` within ${duration(sent.ms)}`
      return stepOf(step, title, {
        flow: sent.outcome === 'sent' ? 'flowing' : 'late',
        evidence: `${sent.outcome === 'sent' ? 'taken' : sent.outcome}${took}, ${when}`,
        joint: 'consumer',
      })
    }
  return stepOf(step, title, { flow: 'waiting', evidence: 'none yet; run the bridge once to see', joint: 'consumer' })
}
