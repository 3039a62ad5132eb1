import { fault, type Fault, isFault } from '#core/faults/catalogue'
import { isPlainObject, textOf, type Carried } from '#core/messages/carried'
import { comesAs } from '#core/bridges/comes'
import { shapersOf } from '#core/bridges/compiled'
import { listedInput, rowsOf } from '#core/bridges/each'
import { fitInto, type FieldType } from '#core/bridges/fit'
import { nothingBut, type Occasion, type RunFacts } from '#core/bridges/run'
import { alarmOccasion } from './alarmOccasion'
import { bringsMessage, type BridgeDraft, type Destination } from '#core/bridges/settings'
import { pathMatcher } from '#core/tags/pattern'
import { carriedOf } from '#core/bridges/tagValue'
import { isTagTrigger } from '#core/bridges/triggers'
import { Payload } from '#core/messages/payload'
import type { DataType } from '#core/tags/types'
import { severityOf } from '#core/tags/quality'
import { within } from '#pacing/within'
import type { BridgePreview, SampleMessage } from '#shared/bridges/preview'
import type { RegisteredTag } from '../tags/tagRegister'
import type { BridgeAround } from './bridgeRunner'
import { Inputs } from './inputs'
import { targetOf } from './targets/registry'
import { occasionText } from './triggering'

/** A receiver that does not tell its types by then is away, as far as a page is concerned. */
const typesWithinMs = 4000

type Around = Pick<BridgeAround, 'table' | 'tags' | 'link' | 'outlet' | 'write' | 'laps' | 'site'>

/** What a bridge would send now. Nothing leaves: destinations are asked for their types only. */
export const previewOf = async (
  bridge: BridgeDraft,
  around: Around,
  sample: SampleMessage | null,
  last: Occasion | null,
): Promise<BridgePreview> => {
  const occasion = (sample && messageOf(sample)) ?? last ?? occasionNow(bridge, around)
  const by = occasion ? occasionText(occasion) : 'a message, which has not come yet'
  const facts = occasion && { occasion, now: Date.now(), number: 0, row: 1, site: around.site(), bridge: bridge.name, inputs: [] }
  const gathered = facts && (await gatheredBy(bridge, facts, around))
  const why = gathered && !gathered.ok ? gathered.fault : null
  const whole: RunFacts | null = facts && gathered?.ok ? { ...facts, inputs: gathered.inputs } : null
  const rows = whole ? rowsOf(whole, listedInput(bridge.take)).slice(0, mostRowsShown) : []
  const destinations = await Promise.all(bridge.send.map((destination, i) => destinationOf(bridge, destination, i, rows, around)))
  const inputs = (whole?.inputs ?? []).map(({ value, quality }, i) => ({
    ...{ name: bridge.take[i]!.name, text: shown(value), good: severityOf(quality) === 'good', parts: partsOf(value) },
  }))
  return { by, message: textOfMessage(occasion), fault: why, inputs, unknown: unknownIn(bridge, around), destinations }
}

const longestMessage = 100_000

const textOfMessage = (occasion: Occasion | null): string | null => {
  const text = occasion?.payload?.text
  return text?.ok && text.value.length <= longestMessage ? text.value : null
}

/** Names by which parts of an input are reached; of a list, those of its first element. */
const partsOf = (value: Carried): string[] => {
  const one: Carried = Array.isArray(value) ? ((value as readonly Carried[])[0] ?? null) : value
  return isPlainObject(one) ? Object.keys(one).filter((name) => /^\w+$/.test(name)) : []
}

/** What differs from run to run cannot be looked up before. */
const unknownIn = ({ when, take, send }: BridgeDraft, { tags }: Around): string[] => {
  const paths = [
    ...when.flatMap((trigger) => (isTagTrigger(trigger) ? [trigger.tag] : [])),
    ...take.flatMap((input) => (input.kind === 'tag' ? [input.path] : [])),
    ...send.flatMap(({ kind, fields }) => (kind === 'tags' ? fields.map(({ into }) => into) : [])),
  ]
  return [...new Set(paths)].filter(
    (path) => !path.includes('{') && !tags.byPath(path) && !(path.includes('*') && firstBy(path, tags.all())),
  )
}

const mostRowsShown = 4
type AlarmTrigger = Extract<BridgeDraft['when'][number], { kind: 'alarm' }>

const gatheredBy = async (bridge: BridgeDraft, facts: RunFacts, around: Around) => {
  const inputs = new Inputs({ take: bridge.take.map(withoutWaiting), lookUps: bridge.lookUps }, { ...around, isTrial: true })
  return inputs.gather(facts.occasion, 0, inputs.asks ? await inputs.fetch(facts) : undefined)
}

const withoutWaiting = <I extends BridgeDraft['take'][number]>(input: I): I =>
  input.missing.do === 'wait' ? { ...input, missing: { do: 'skip' } } : input

const messageOf = ({ topic, payload }: SampleMessage): Occasion => ({
  ...nothingBut('clock', 0, Date.now()),
  ...{ by: 'message', topic, payload: new Payload(new TextEncoder().encode(payload)) },
})

/** What would set it off, as things are; null: only a message could. */
const occasionNow = ({ when }: BridgeDraft, { table, tags }: Around): Occasion | null => {
  for (const [index, trigger] of when.entries()) {
    if (!isTagTrigger(trigger)) continue
    const tag = tags.byPath(trigger.tag) ?? firstBy(trigger.tag, tags.all())
    if (!tag) continue
    const { handle, path, unit, names, passedOn } = tag
    return {
      ...nothingBut('clock', index, table.sourceTime[handle]!),
      ...{ by: 'tag', path, unit, names, value: carriedOf(table.values[handle], passedOn), quality: table.quality[handle]! },
    }
  }
  const alarm = when.findIndex(({ kind }) => kind === 'alarm')
  if (alarm >= 0) return alarmLike(when[alarm] as AlarmTrigger, alarm, tags)
  const isMessage = when.length > 0 && when.every(bringsMessage)
  return isMessage ? null : nothingBut(when.length > 0 ? 'clock' : 'hand', null, Date.now())
}

/** An alarm as it could be, of the first tag that it may be of. */
const alarmLike = ({ tag, turns, severity }: AlarmTrigger, index: number, tags: Around['tags']): Occasion => {
  const path = firstBy(tag, tags.all())?.path ?? 'tank/level'
  const said =
    turns[0] === 'acknowledged' || turns[0] === 'commented' ? { who: 'maren', comment: 'Pump 2 takes over' } : { who: '', comment: '' }
  const facts = { key: '', tagId: 0, path, limit: 'high', severity, turn: turns[0]!, text: 'high: above 80 %, 85 %', value: '85' }
  return alarmOccasion({ ...facts, at: Date.now(), ...said }, index)
}

const firstBy = (pattern: string, all: Iterable<RegisteredTag>): RegisteredTag | undefined => {
  const matches = pathMatcher(pattern)
  for (const tag of all) if (matches(tag.path)) return tag
  return undefined
}

const destinationOf = async (
  bridge: BridgeDraft,
  destination: Destination,
  index: number,
  rows: readonly RunFacts[],
  around: Around,
): Promise<BridgePreview['destinations'][number]> => {
  const run = rows[0] ?? null
  const target = targetOf(destination, around, { id: 0, name: bridge.name })
  const [types, why] = await told(within(typesWithinMs, target.types()))
  const fields = destination.fields.map(({ into, from }, i) =>
    fieldOf(
      { into, from },
      { type: types?.[i] ?? null, comes: (now) => comesOf(from, bridge, around, run, now) },
      bridge,
      destination,
      i,
      run,
    ),
  )
  const records = rows.flatMap((row) => attempt(() => shapersOf(bridge)[index]!.shape(row)) ?? [])
  const names = destination.fields.map(({ into }) => into)
  const lines = records.length > 0 ? await target.preview({ fields: names, records, key: '' }).catch(() => []) : []
  return { number: destination.number, fields, lines, fault: why }
}

/** Each field by itself: one that fails stops no other. */
const fieldOf = (
  field: { into: string; from: string },
  { type, comes }: { type: FieldType | null; comes(now: Carried | undefined): DataType | null },
  { take, lookUps }: BridgeDraft,
  destination: Destination,
  index: number,
  run: RunFacts | null,
): BridgePreview['destinations'][number]['fields'][number] => {
  const shared = { into: field.into, type: type?.name ?? null }
  if (!run) return { ...shared, now: null, comes: comes(undefined), how: null, text: '' }
  try {
    const alone = { ...destination, kind: 'table', fields: [destination.fields[index]!] } as Destination
    const value = shapersOf({ take, lookUps, send: [alone] })[0]!.shape(run).values[0] ?? null
    const fit = type && fitInto(type, value)
    return { ...shared, now: shown(value), comes: comes(value), how: fit?.how ?? null, text: fit && fit.how !== 'exact' ? fit.text : '' }
  } catch (error) {
    return { ...shared, now: null, comes: comes(undefined), how: null, text: (error as Error).message }
  }
}

const comesOf = (from: string, { take }: BridgeDraft, { tags }: Around, run: RunFacts | null, now: Carried | undefined) =>
  comesAs(from, take, { now, tagType: (path) => tags.byPath(path)?.passedOn }, run?.occasion.path)

const attempt = <T>(work: () => T): T | null => {
  try {
    return work()
  } catch {
    return null
  }
}

const told = async <T>(work: Promise<T>): Promise<[T | null, Fault | null]> => {
  try {
    return [await work, null]
  } catch (error) {
    return [null, isFault(error) ? error : fault('ours.unexpected', { problem: (error as Error).message })]
  }
}

const mostShown = 200
const shown = (value: Carried): string => {
  if (value === null) return 'null'
  const text = textOf(value)
  return text.length > mostShown ? `${text.slice(0, mostShown)}…` : text
}
