import { Cron } from 'croner'
import { Moments } from '#pacing/moments'
import { severities } from '#core/alarms/limits'
import { nothingBut, type Occasion, type Source } from '#core/bridges/run'
import { type Fault, isFault } from '#core/faults/catalogue'
import type { BridgeDraft, FileTrigger, Trigger } from '#core/bridges/settings'
import { carriedOf } from '#core/bridges/tagValue'
import { isTagTrigger, watchFor, type TagTrigger, type Watch } from '#core/bridges/triggers'
import { pathMatcher } from '#core/tags/pattern'
import { valueText } from '#core/text/number'
import { Payload } from '#core/messages/payload'
import type { AlarmEvent } from '#shared/alarms'
import { alarmOccasion } from './alarmOccasion'
import { FileWatch } from './files/fileWatch'
import { Places } from './files/places'
import type { Spool } from './spool'
import type { Arrival } from '../arrivals/arrival'
import type { LinkRunner } from '../links/linkRunner'
import type { OutletRunner } from '../outlets/outletRunner'
import type { RegisteredTag } from '../tags/tagRegister'
import type { Handle } from '../table/tagTable'
import type { Periods } from './periods'
import type { TagWatch, Watcher } from './tagWatch'

export interface TriggerAround {
  watch: TagWatch
  periods: Periods
  spool: Spool
  link(id: number): LinkRunner | undefined
  outlet(id: number): OutletRunner | undefined
  /** What becomes of alarms; returns how to end it. */
  alarms(listener: (event: AlarmEvent) => void): () => void
}

type AlarmTrigger = Extract<Trigger, { kind: 'alarm' }>
type MessageTrigger = Extract<Trigger, { kind: 'message' | 'client' }>

export interface Heard {
  fire(occasion: Occasion): void
  lost(count: number): void
  /** What was taken from a source up to here will not be asked for again. */
  taken(source: Source): void
  /** What is looked into cannot be; null: it can again. */
  missed(why: Fault | null): void
}

/** Starts to look for what sets a bridge off; returns how to end it. */
export const startTriggers = (
  { id, when: triggers }: Pick<BridgeDraft, 'when'> & { id: number },
  around: TriggerAround,
  heard: Heard,
): (() => void) => {
  const ends = triggers.map((trigger, index) => {
    if (isTagTrigger(trigger)) return watchTag(trigger, index, around, heard)
    if (trigger.kind === 'period') return around.periods.add(trigger.every, (at) => heard.fire(nothingBut('clock', index, at)))
    if (trigger.kind === 'schedule') return watchClock(trigger, index, heard)
    if (trigger.kind === 'alarm') return watchAlarms(trigger, index, around, heard)
    if (trigger.kind === 'file') return watchFiles(trigger, index, id, around, heard)
    return listen(trigger, index, around, heard)
  })
  return () => ends.forEach((end) => end())
}

/** Each tag that goes by the pattern is watched by itself. */
const watchTag = (trigger: TagTrigger, index: number, { watch }: TriggerAround, { fire, lost }: Heard) => {
  const states = new Map<Handle, Watch>()
  const watcher: Watcher = {
    ...{ pattern: trigger.tag, lost },
    take: (tag, { value, quality, sourceTime }) => {
      if (value === undefined) return void states.delete(tag.handle)
      const state = states.get(tag.handle) ?? watchFor(trigger)
      states.set(tag.handle, state)
      if (state({ value, quality })) fire(occasionOf(tag, index, value, quality, sourceTime))
    },
    forget: ({ handle }) => states.delete(handle),
  }
  watch.add(watcher)
  return () => watch.remove(watcher)
}

const occasionOf = (
  tag: RegisteredTag,
  trigger: number,
  value: Parameters<typeof carriedOf>[0],
  quality: number,
  at: number,
): Occasion => ({
  ...{
    by: 'tag',
    trigger,
    at,
    path: tag.path,
    unit: tag.unit,
    names: tag.names,
    value: carriedOf(value, tag.passedOn),
    quality,
    topic: '',
    payload: null,
  },
})

const watchClock = ({ cron, zone }: Extract<Trigger, { kind: 'schedule' }>, index: number, { fire }: Heard) => {
  const clock = new Cron(cron, { timezone: zone })
  const after = (at: number) => clock.nextRun(new Date(at))?.getTime() ?? null
  const moments = new Moments({ after, call: (at) => fire(nothingBut('clock', index, at)), unref: true })
  return () => moments.close()
}

const watchFiles = (trigger: FileTrigger, index: number, bridge: number, { link, spool }: TriggerAround, heard: Heard) => {
  const watch = new FileWatch({
    ...{ trigger, index, fire: heard.fire, taken: heard.taken, tell: heard.missed, well: () => heard.missed(null) },
    places: new Places(spool, spool.sourcesOf(bridge, `${trigger.linkId}/${trigger.by}`), trigger.files),
    folder: () => {
      const receiver = link(trigger.linkId)?.receiver()
      return !receiver || isFault(receiver) || receiver.takes !== 'file' ? null : receiver
    },
  })
  return () => void watch.close()
}

/** What becomes of an alarm comes as a message would. */
const watchAlarms = ({ tag, turns, severity }: AlarmTrigger, index: number, { alarms }: TriggerAround, { fire }: Heard) => {
  const fits = pathMatcher(tag)
  const least = severities.indexOf(severity)
  return alarms((event) => {
    if (turns.includes(event.turn) && severities.indexOf(event.severity) >= least && fits(event.path)) fire(alarmOccasion(event, index))
  })
}

const listen = (trigger: MessageTrigger, index: number, { link, outlet }: TriggerAround, { fire }: Heard) => {
  const take = ({ topic, payload, at, retained, waits, outcomes }: Arrival) => {
    // what the broker kept for those who come later is no message of now
    if (retained) return
    const occasion: Occasion = { ...nothingBut('clock', index, at), by: 'message', topic, payload: new Payload(payload) }
    if (waits) waits.push(new Promise((settled) => (occasion.settled = settled)))
    if (outcomes) outcomes.push(new Promise((ended) => (occasion.ended = ended)))
    fire(occasion)
  }
  const { filter } = trigger
  const wanted = { filter, by: 'a bridge', take }
  const end =
    trigger.kind === 'message' ? link(trigger.linkId)?.listen({ ...wanted, qos: trigger.qos }) : outlet(trigger.outletId)?.listen(wanted)
  return end ?? (() => {})
}

/** What set a run off, in words. */
export const occasionText = ({ by, path, topic, value }: Occasion): string => {
  if (by === 'tag') return `${path} = ${typeof value === 'number' || typeof value === 'bigint' ? valueText(value) : String(value)}`
  if (by === 'message' || by === 'file') return topic
  return by === 'clock' ? 'the clock' : 'by hand'
}
