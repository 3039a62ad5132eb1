import { qosText } from '../mqtt/settings'
import type { Away, BridgeDraft, Destination, Input, Trigger } from './settings'

/** The parts of a bridge's sentence, as pages, lists and the journal have them. */
export type PlaceName = (of: 'link' | 'outlet', id: number) => string

export const shownTime = (ms: number): string => {
  if (ms % 3_600_000 === 0) return ms === 3_600_000 ? 'hour' : `${ms / 3_600_000} h`
  if (ms % 60_000 === 0) return ms === 60_000 ? 'minute' : `${ms / 60_000} min`
  return ms % 1000 === 0 ? (ms === 1000 ? 'second' : `${ms / 1000} s`) : `${ms} ms`
}

export const triggerText = (trigger: Trigger, name: PlaceName): string => {
  switch (trigger.kind) {
    case 'change':
    case 'edge':
    case 'limit':
      return `${trigger.tag || 'a tag'} ${doesText(trigger)}`
    case 'period':
      return `every ${shownTime(trigger.every)}`
    case 'schedule':
      return `the schedule ${trigger.cron} comes, ${trigger.zone}`
    case 'message':
      return `a message comes on ${trigger.filter || '…'} over ${name('link', trigger.linkId)}`
    case 'client':
      return `a client sends to ${trigger.filter || '…'} at ${name('outlet', trigger.outletId)}`
    case 'alarm':
      return alarmText(trigger)
    case 'file':
      return trigger.by === 'line'
        ? `a line is added to ${trigger.files || '…'} in ${name('link', trigger.linkId)}`
        : `a file ${trigger.files || '…'} comes to ${name('link', trigger.linkId)}`
  }
}

const alarmText = ({ tag, turns, severity }: Extract<Trigger, { kind: 'alarm' }>): string =>
  `an alarm of ${tag || 'a tag'} is ${turns.join(' or ')}${severity === 'note' ? '' : `, at least ${severity}`}`

const doesText = (trigger: Extract<Trigger, { kind: 'change' | 'edge' | 'limit' }>): string => {
  if (trigger.kind === 'change') return trigger.by === null ? 'changes' : `moves by more than ${trigger.by}`
  if (trigger.kind === 'edge') return trigger.to === 'either' ? 'turns' : `becomes ${trigger.to}`
  return `goes ${trigger.way} ${trigger.limit}${trigger.back > 0 ? `, again after it was ${trigger.back} back` : ''}`
}

const mostStatement = 60

export const inputText = (input: Input, name: PlaceName): string => {
  const from = fromText(input, name)
  const whole = input.name === from ? from : `${input.name} = ${from}`
  return 'each' in input && input.each ? `each ${whole}` : whole
}

const fromText = (input: Input, name: PlaceName): string => {
  if (input.kind === 'constant') return JSON.stringify(input.value)
  if (input.kind === 'call') return `${input.path || 'the answer'} of ${input.operation || '…'} at ${name('link', input.linkId)}`
  if (input.kind !== 'query') return input.path || '…'
  const statement = input.statement.replace(/\s+/g, ' ')
  return `${statement.length > mostStatement ? `${statement.slice(0, mostStatement)}…` : statement || '…'} in ${name('link', input.linkId)}`
}

export const missingText: Record<Input['missing']['do'], string> = {
  skip: 'without it the run is skipped',
  null: 'without it null is sent',
  last: 'without it the last good one is taken',
  wait: 'it is waited for',
}

const howText = {
  insert: 'one row',
  upsert: 'one row, new or in place of the one with its key,',
  update: 'the row with its key',
  call: 'a call',
}

export const destinationText = (destination: Destination, name: PlaceName): string => {
  switch (destination.kind) {
    case 'tags':
      return destination.fields.length === 1 ? `the tag ${destination.fields[0]!.into || '…'}` : `${destination.fields.length} tags`
    case 'topic':
      return `a message to ${destination.topic || '…'} over ${name('link', destination.linkId)}`
    case 'outlet':
      return `a message to ${destination.topic || '…'} at ${name('outlet', destination.outletId)}`
    case 'table': {
      const place = [destination.schema, destination.table].filter(Boolean).join('.') || '…'
      return `${howText[destination.how]} to ${place} in ${name('link', destination.linkId)}`
    }
    case 'file':
      return `one line to ${destination.name || '…'} in ${name('link', destination.linkId)}`
    case 'call':
      return `a call of ${destination.operation || '…'} at ${name('link', destination.linkId)}`
  }
}

/** Whether records leave one by one. */
export const gatherText = (gather: BridgeDraft['gather']): string =>
  gather === null ? 'each at once' : `what comes within ${spanText(gather.within)} together, up to ${gather.most.toLocaleString('en-GB')}`

const spanText = (ms: number) => (ms % 1000 === 0 ? `${ms / 1000} s` : `${ms} ms`)

export const awayText = ({ keep, most, days }: Away): string => {
  if (keep === 'none') return 'drop what is not taken at once'
  if (keep === 'latest') return 'keep the latest only'
  return `keep until delivered, in order, up to ${most >= 1000 && most % 1000 === 0 ? `${most / 1000} GB` : `${most} MB`}${days === null ? '' : ` and ${days} days`}`
}

/** What a choice guarantees, and what it does not. */
export const guaranteeText = (destination: Destination): string => {
  const { keep } = destination.away
  if (keep === 'none') return 'At most once: what comes while the receiver is away is gone, and counted.'
  if (keep === 'latest')
    return 'The last value arrives once the receiver is back; those before it are gone. It lies in memory: a restart of the engine loses it.'
  return `Nothing is lost: it lies on the engine’s disk until the receiver has it, through restarts of either. ${onceText(destination)}`
}

const onceText = (destination: Destination): string => {
  switch (destination.kind) {
    case 'table':
      if (destination.how === 'call') return 'Where a connection breaks between the call and hearing of it, it may be called twice.'
      return destination.how === 'insert'
        ? 'Where a connection breaks between sending and hearing of it, a row may come twice; with a key (“new or in place of”) none does.'
        : 'None comes twice: a row that is sent again has the same key.'
    case 'topic':
      return destination.qos === 0
        ? 'With QoS 0 the broker says nothing: what it lost on the way is lost.'
        : `QoS ${destination.qos}: ${qosText[destination.qos]}, as far as the broker; after a break a message may be sent again.`
    case 'outlet':
      return destination.qos === 0
        ? 'With QoS 0 who listens at that moment gets it; who is away does not.'
        : `QoS ${destination.qos}: it is kept for clients that are away and want their session kept, through a restart.`
    case 'file':
      return 'Each line is written once and as a whole.'
    case 'call':
      return destination.keyHeader === ''
        ? 'Where no answer is heard, a call is made again: it may be taken twice.'
        : `Where no answer is heard, a call is made again with the same ${destination.keyHeader}, by which the far side knows it again.`
    case 'tags':
      return 'Old values are written one after the other once the device is back: for set points, the latest alone is nearly always what is wanted.'
  }
}
