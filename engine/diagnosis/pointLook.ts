import { isSensible, likeliestOf, type PointFacts, type TriedVariant } from '#core/diagnosis/point'
import { fault, type Fault } from '#core/faults/catalogue'
import type { PointDefinition } from '#core/links/protocol'
import { protocolOf } from '#core/links/registry'
import { severityOf } from '#core/tags/quality'
import { toEngineering, wholeScaling } from '#core/tags/scaling'
import { isArrayType } from '#core/tags/types'
import { counted } from '#core/text/counted'
import { duration } from '#core/text/duration'
import { valueText } from '#core/text/number'
import { within } from '#pacing/within'
import type { PointSource } from '#shared/sources/point'
import type { CheckStep } from '#shared/status'
import type { ReadingRow, ValueOrigin } from '#shared/values'
import { checkSteps } from '../links/checkSteps'
import type { LinkRunner } from '../links/linkRunner'
import type { TagTable } from '../table/tagTable'
import type { RegisteredTag, TagRegister } from '../tags/tagRegister'

export type PointTag = RegisteredTag & { source: PointSource }

const { waiting, sound, failed, open, notReached } = checkSteps({
  point: 'This point by itself',
  sense: 'What it means',
  moves: 'It moves',
})

/** Protocols have their own time-outs; this is for what none of them foresaw. */
const longestReadMs = 15_000
/** A measured value that stands still for so long, and was read so often meanwhile, is odd. */
const stillMs = 600_000
const stillReads = 60
/** Whoever sets a value by hand gives it fewer digits than that. */
const setDigits = 4

interface Around {
  link: LinkRunner
  table: TagTable
  tags: TagRegister
}

/** A point of a far side to which all on the way is sound: read by itself, and what speaks against what it gives. */
export async function* lookAtPoint(tag: PointTag, around: Around, found: (facts: PointFacts) => void): AsyncGenerator<CheckStep> {
  const began = performance.now()
  yield waiting('point')
  const origin = await readOnce(tag, around.link)
  const ms = performance.now() - began
  const { path, source } = tag
  const facts: PointFacts = { path, address: source.address }
  if (origin.fault) {
    if (isQuiet(tag, origin.fault, around))
      yield open('point', 'waiting', 'nothing came meanwhile; it comes when the far side sends something')
    else {
      found({ ...facts, variants: await triedVariants(tag, around.link) })
      yield failed('point', origin.fault, ms)
      return yield* notReached('point')
    }
  } else yield sound('point', shownBy(origin, tag), ms)
  yield* makesSense(tag, origin, around, facts, found)
}

export const pointNotReached = (): CheckStep[] => [open('point', 'off', 'not reached'), ...notReached('point')]

async function* makesSense(tag: PointTag, origin: ValueOrigin, around: Around, facts: PointFacts, found: (facts: PointFacts) => void) {
  const odd = oddityOf(tag, origin.readings)
  if (odd) {
    const { reads, otherWay } = odd
    const variants = await triedVariants(tag, around.link)
    found({ ...facts, reads, ...(otherWay ? { otherWay } : {}), variants })
    const other = otherWay?.label ?? variants.find(isSensible)?.address ?? null
    const why = fault('point.implausible', { path: tag.path, reads: reads.text, other }, reads.against.join(', '))
    yield { ...failed('sense', why, null), flow: 'late' as const }
    return yield* notReached('sense')
  }
  yield origin.readings.length > 0 ? sound('sense', 'nothing speaks against its value', null) : open('sense', 'off', 'its type says all')
  yield movesStep(tag, around, (still) => found({ ...facts, still }))
}

/** Messages come when they come: where one was good, another one does not have to come now. */
const isQuiet = ({ handle }: PointTag, why: Fault, { link, table }: Around) =>
  why.code === 'mqtt.nothing-yet' || (protocolOf(link.kind).capabilities.messages && severityOf(table.quality[handle]!) === 'good')

const readOnce = async ({ source, type, access }: PointTag, link: LinkRunner): Promise<ValueOrigin> => {
  const { address, options, interval } = source
  return readAs({ address, options, interval, type, access }, link)
}

const readAs = (definition: PointDefinition, link: LinkRunner): Promise<ValueOrigin> =>
  within(longestReadMs, link.tryRead(definition)).catch((error: Error) => ({
    ...{ stages: [], readings: [], wordsFrom: '', goesTo: [] },
    fault: fault('link.broke-off', { problem: error.message }, error.message),
  }))

/** The last stage is the value as it would be passed on. */
const shownBy = ({ stages, readings }: ValueOrigin, { type }: PointTag): string => {
  const [first] = stages
  const used = readings.find(({ inUse }) => inUse)
  const value = used?.text ?? stages.at(-1)?.text ?? 'read'
  return first && first.text !== value ? `${first.text} → ${value}` : `${value}${isArrayType(type) ? '' : ` (${type})`}`
}

interface Oddity {
  reads: NonNullable<PointFacts['reads']>
  otherWay: PointFacts['otherWay'] | null
}

/** What speaks against the value, as its bytes are read and by the range that the tag has; null: nothing. */
const oddityOf = (tag: PointTag, readings: readonly ReadingRow[]): Oddity | null => {
  const used = readings.find(({ inUse }) => inUse)
  if (!used) return null
  const against = oddAgainst(used, tag)
  if (against.length === 0) return null
  const others = readings.filter((row) => row.takes && !row.inUse && row.plausible && row.text !== used.text && beyond(tag, row) === null)
  const best = likeliestOf(others, tag.type)
  const otherWay = best ? { label: best.label, text: best.text, reasons: best.reasons.map(({ text }) => text) } : null
  return { reads: { text: used.text, against }, otherWay }
}

const oddAgainst = (row: ReadingRow, tag: PointTag): string[] => {
  const range = beyond(tag, row)
  return [...row.reasons.filter(({ speaks }) => speaks === 'against').map(({ text }) => text), ...(range ? [range] : [])]
}

/** A value a whole range beyond its range is not a large value, but another one. */
const beyond = (tag: PointTag, { value }: ReadingRow): string | null => {
  const { range, unit } = tag
  if (!range || value === null) return null
  const scaled = toEngineering(value, wholeScaling(tag))
  const span = range.high - range.low
  if (typeof scaled !== 'number' || (scaled <= range.high + span && scaled >= range.low - span)) return null
  return `${valueText(scaled)} ${unit}`.trim() + ` is far beyond its range of ${range.low} to ${range.high}`
}

/** One after the other: a device that is asked by hand is not asked for much at once. */
const triedVariants = async (tag: PointTag, link: LinkRunner): Promise<TriedVariant[]> => {
  const { source, type, access } = tag
  const variants = protocolOf(link.kind).variants?.(source.address) ?? []
  const tried: TriedVariant[] = []
  for (const variant of variants) {
    const origin = await readAs({ address: variant.address, options: source.options, type, access: 'read' }, link)
    const used = origin.readings.find(({ inUse }) => inUse)
    const gives = origin.fault ? null : (used?.text ?? origin.stages.at(-1)?.text ?? '')
    tried.push({ ...variant, gives, against: used ? oddAgainst(used, { ...tag, access }) : [], refused: origin.fault?.what ?? null })
  }
  return tried
}

/** How long it has had its value to the last digit, although it is read all the time. */
const movesStep = (tag: PointTag, { link, table, tags }: Around, found: (still: PointFacts['still']) => void): CheckStep => {
  const { handle } = tag
  const [since, seen, value] = [table.sourceTime[handle]!, table.seenAt[handle]!, table.values[handle]]
  if (value === undefined || since === 0) return open('moves', 'waiting', 'it has had no value yet')
  const ms = seen - since
  const told = ms < 1000 ? 'as it was read last' : `the same for ${duration(ms)}`
  const interval = tag.source.interval ?? protocolOf(link.kind).interval(link.draft.settings) ?? 0
  if (!isMeasured(tag, value) || ms < stillMs || interval === 0 || ms / interval < stillReads) return sound('moves', told, null)
  const others = besides(tag, tags)
  const moved = others.filter((other) => table.sourceTime[other.handle]! > since).length
  found({ ms, moved, others: others.length })
  const why = fault(
    'point.still',
    { path: tag.path, value: valueText(value), ms },
    `${moved} of ${counted(others.length, 'other tag')} of the link moved`,
  )
  return { ...failed('moves', why, null), flow: 'late' }
}

/** A number with so many digits that nobody typed it, which nobody sets from here. */
const isMeasured = ({ access, type }: PointTag, value: unknown) =>
  access === 'read' && (type === 'float32' || type === 'float64') && typeof value === 'number' && digitsOf(value) > setDigits

const digitsOf = (value: number) =>
  value
    .toPrecision(6)
    .replace(/e.*$/, '')
    .replace(/[-.]/g, '')
    .replace(/^0+|0+$/g, '').length

const besides = (tag: PointTag, tags: TagRegister): PointTag[] =>
  [...tags.all()].filter(
    (one): one is PointTag => one.source.kind === 'point' && one.source.linkId === tag.source.linkId && one.id !== tag.id,
  )
