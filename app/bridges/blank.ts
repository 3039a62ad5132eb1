import {
  destinationContract,
  triggerContract,
  type FileTrigger,
  type BridgeDraft,
  type Destination,
  type DestinationKind,
  type Input,
  type Trigger,
} from '#core/bridges/settings'
import { protocolOf } from '#core/links/registry'
import { outletFactsOf } from '#core/outlets/registry'
import { operationsOf } from './operations'
import type { Link } from '#shared/links/link'
import type { Outlet } from '#shared/outlets/outlet'

/** Parts of a bridge as they are before anything is typed. */

export const triggerTitles: Record<Trigger['kind'], string> = {
  change: 'a tag changes',
  edge: 'a tag becomes true or false',
  limit: 'a tag crosses a limit',
  period: 'every so often',
  schedule: 'a schedule comes',
  message: 'a message comes over a link',
  client: 'a client sends to an outlet',
  file: 'a file or line comes',
  alarm: 'an alarm is raised, over or seen',
}

/** What a bridge may go to and come from. */
export interface Places {
  links: readonly Link[]
  outlets: readonly Outlet[]
}

/** The outlets that clients send messages to. */
export const messageOutlets = ({ outlets }: Pick<Places, 'outlets'>): Outlet[] =>
  outlets.filter(({ kind }) => outletFactsOf(kind).capabilities.messages)

export const blankTrigger = (kind: Trigger['kind'], { links, outlets }: Places): Trigger => {
  const blanks: { [K in Trigger['kind']]: Extract<Trigger, { kind: K }> } = {
    change: { kind: 'change', tag: '', by: null },
    edge: { kind: 'edge', tag: '', to: 'true' },
    limit: { kind: 'limit', tag: '', way: 'above', limit: 0, back: 0 },
    period: { kind: 'period', every: 1000 },
    schedule: { kind: 'schedule', cron: '0 6 * * *', zone: Intl.DateTimeFormat().resolvedOptions().timeZone || 'UTC' },
    message: { kind: 'message', linkId: links.find(({ kind }) => protocolOf(kind).capabilities.messages)?.id ?? 0, filter: '', qos: 1 },
    file: triggerContract.parse({ kind: 'file', linkId: receivers('file', { links, outlets })[0]?.id ?? 1, files: '*.csv' }) as FileTrigger,
    alarm: { kind: 'alarm', tag: '**', turns: ['raised'], severity: 'note' },
    client: { kind: 'client', outletId: messageOutlets({ outlets })[0]?.id ?? 0, filter: '' },
  }
  return blanks[kind]
}

export const inputTitles: Record<Input['kind'], string> = {
  tag: 'a tag',
  member: 'a part of the message or line',
  query: 'rows of a database',
  call: 'an answer of a web API',
  constant: 'always the same',
}

export const blankInput = (kind: Input['kind'], name: string, { links }: Pick<Places, 'links'>): Input => {
  const shared = { name, missing: { do: 'skip' as const } }
  if (kind === 'constant') return { ...shared, kind, value: 0 }
  if (kind === 'query') {
    const linkId = links.find((link) => protocolOf(link.kind).capabilities.receives === 'table')?.id ?? 0
    return { ...shared, kind, linkId, statement: '', each: false }
  }
  if (kind === 'call') {
    const linkId = links.find((link) => protocolOf(link.kind).capabilities.receives === 'call')?.id ?? 0
    return { ...shared, kind, linkId, operation: operationsOf(links, linkId)[0]?.name ?? '', given: [], path: '', each: false }
  }
  return kind === 'member' ? { ...shared, kind, path: '$.value', each: false } : { ...shared, kind, path: '' }
}

/** A name that a path suggests, which no other input has. */
export const nameFrom = (path: string, taken: readonly string[]): string => {
  const words = path.split(/[/.$[\]'"]+/).filter((word) => /^[a-zA-Z]/.test(word))
  const base = (words.at(-1) ?? 'input').replace(/[^a-zA-Z0-9_]/g, '_').slice(0, 36)
  for (let at = 1; ; at++) {
    const name = at === 1 ? base : `${base}${at}`
    if (!taken.includes(name)) return name
  }
}

export const destinationTitles: Record<DestinationKind, string> = {
  tags: 'tags',
  topic: 'a topic over a link',
  outlet: 'a topic of an outlet',
  table: 'a table',
  file: 'a CSV file',
  call: 'a call of a web API',
}

/** The links or outlets that take what a destination of this kind sends. */
export const receivers = (kind: DestinationKind, { links, outlets }: Places): (Link | Outlet)[] => {
  if (kind === 'tags') return []
  return kind === 'outlet'
    ? outlets.filter((outlet) => outletFactsOf(outlet.kind).capabilities.sends)
    : links.filter((link) => protocolOf(link.kind).capabilities.receives === kind)
}

/** A destination with what another one had, as far as it goes there, too. */
export const blankDestination = (kind: DestinationKind, number: number, places: Places, fields: Destination['fields']): Destination => {
  const place = receivers(kind, places)[0]?.id ?? 0
  const whole = destinationContract.parse({
    ...{ kind, number, fields: [{ into: 'value', from: 'value' }], away: { keep: kind === 'tags' ? 'latest' : 'all' } },
    // what a person has to give is there while it is parsed, and taken out again below
    ...{ linkId: 1, outletId: 1, topic: 'none', table: 'none', name: 'none', operation: 'none' },
  })
  const blanks = {
    linkId: place,
    outletId: place,
    topic: '',
    table: '',
    name: '',
    operation: operationsOf(places.links, place)[0]?.name ?? '',
  }
  const emptied = Object.entries(blanks).filter(([field]) => field in whole)
  return {
    ...whole,
    fields: fields.length > 0 ? fields.map((field) => ({ ...field })) : [{ into: '', from: '' }],
    ...Object.fromEntries(emptied),
  }
}

export const blankBridge = (places: Places): BridgeDraft => ({
  ...{ name: '', on: true, when: [blankTrigger('change', places)], gather: null, take: [], lookUps: [], nodeId: null },
  send: [blankDestination('tags', 1, places, [{ into: '', from: 'value' }])],
})

/** A bridge that a topic sets off, as somebody found it among what comes. */
export const bridgeOn = (trigger: Extract<Trigger, { kind: 'message' | 'client' }>, places: Places): BridgeDraft => ({
  ...blankBridge(places),
  when: [trigger],
  send: [blankDestination('tags', 1, places, [{ into: '', from: 'payload' }])],
})
