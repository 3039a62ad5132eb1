import {
  destinationContract,
  type BridgeDraft,
  type Destination,
  type DestinationKind,
  type Input,
  type Trigger,
} from '#core/bridges/settings'
import { protocolOf } from '#core/links/registry'
import type { Link } from '#shared/links/link'

/** Parts of a bridge as they are before anything is typed. */

export const triggerTitles: Record<Trigger['kind'], string> = {
  change: 'a tag changes',
  edge: 'a tag becomes true or false',
  limit: 'a tag crosses a limit',
  period: 'every so often',
  schedule: 'a schedule comes',
  message: 'a message comes',
}

export const blankTrigger = (kind: Trigger['kind'], links: readonly Link[]): Trigger => {
  const blanks: { [K in Trigger['kind']]: Extract<Trigger, { kind: K }> } = {
    change: { kind: 'change', tag: '', by: null },
    edge: { kind: 'edge', tag: '', to: 'true' },
    limit: { kind: 'limit', tag: '', way: 'above', limit: 0, back: 0 },
    period: { kind: 'period', every: 1000 },
    schedule: { kind: 'schedule', cron: '0 6 * * *', zone: Intl.DateTimeFormat().resolvedOptions().timeZone || 'UTC' },
    message: { kind: 'message', linkId: links.find(({ kind }) => protocolOf(kind).capabilities.messages)?.id ?? 0, filter: '', qos: 1 },
  }
  return blanks[kind]
}

export const inputTitles: Record<Input['kind'], string> = {
  tag: 'a tag',
  member: 'a part of the message',
  constant: 'always the same',
}

export const blankInput = (kind: Input['kind'], name: string): Input => {
  const shared = { name, missing: { do: 'skip' as const } }
  if (kind === 'constant') return { ...shared, kind, value: 0 }
  return { ...shared, kind, path: kind === 'member' ? '$.value' : '' }
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
  topic: 'a topic',
  table: 'a table',
  file: 'a CSV file',
}

/** The links that take what a destination of this kind sends. */
export const receivers = (kind: DestinationKind, links: readonly Link[]): Link[] =>
  kind === 'tags' ? [] : links.filter((link) => protocolOf(link.kind).capabilities.receives === kind)

/** A destination with what another one had, as far as it goes there, too. */
export const blankDestination = (
  kind: DestinationKind,
  number: number,
  links: readonly Link[],
  fields: Destination['fields'],
): Destination => {
  const linkId = receivers(kind, links)[0]?.id ?? 0
  const more = { tags: {}, topic: { linkId, topic: 'none' }, table: { linkId, table: 'none' }, file: { linkId, name: 'none' } }[kind]
  const whole = destinationContract.parse({
    ...{ kind, number, fields: [{ into: 'value', from: 'value' }], away: { keep: kind === 'tags' ? 'latest' : 'all' } },
    ...{ ...more, ...(linkId === 0 ? { linkId: 1 } : {}) },
  })
  const emptied = {
    ...whole,
    fields: fields.length > 0 ? fields.map((field) => ({ ...field })) : [{ into: '', from: '' }],
    ...(kind === 'tags' ? {} : { linkId }),
  }
  if (emptied.kind === 'topic') emptied.topic = ''
  if (emptied.kind === 'table') emptied.table = ''
  if (emptied.kind === 'file') emptied.name = ''
  return emptied
}

export const blankBridge = (links: readonly Link[]): BridgeDraft => ({
  ...{ name: '', on: true, when: [blankTrigger('change', links)], gather: null, take: [] },
  send: [blankDestination('tags', 1, links, [{ into: '', from: 'value' }])],
})
