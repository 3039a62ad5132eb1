import { z } from 'zod'
import { alarmTurns, severities } from '#core/alarms/limits'
import { momentField } from '#core/contracts/fields'
import type { PageAsked } from '#core/lists/paged'

const what = {
  tagId: z.int(),
  path: z.string().describe('Of the tag.'),
  limit: z.string().describe('The name of the limit.'),
  severity: z.enum(severities),
  text: z.string().describe('What happened.'),
}

/** A limit that is crossed, or was and nobody said yet that it was seen. */
export const alarm = z
  .object({
    key: z.string().describe('By what it is acknowledged.'),
    ...what,
    active: z.boolean(),
    since: momentField.describe('When it was last crossed.'),
    over: momentField.nullable().describe('When the value came back; null: it did not.'),
    value: z.string().describe('What it was when that happened.'),
    count: z.int().describe('So often it was crossed since somebody last said that it was seen.'),
    seen: z.object({ by: z.string(), at: momentField }).nullable().describe('Who acknowledged it; null: nobody has yet.'),
    comment: z.object({ text: z.string(), by: z.string(), at: momentField }).nullable(),
    isUnknown: z.boolean().describe('The value is bad, so that nobody knows whether it still holds.'),
  })
  .meta({ id: 'Alarm' })
export type Alarm = z.output<typeof alarm>

/** Of those that nobody saw, however many. */
export const alarmsMatching = z.object({
  find: z.string().max(200).default('').describe('Words that their path or text has; empty: all.'),
  until: momentField.describe('None that was crossed later: nobody saw those in a list.'),
})
export type AlarmsMatching = z.output<typeof alarmsMatching>

export const acknowledged = z.object({
  acknowledged: z.int(),
  left: z.array(z.string()).describe('The keys of those that stayed as they are.'),
})
export type Acknowledged = z.output<typeof acknowledged>

/** Which of them. */
export interface AlarmsAsked extends PageAsked<'rank' | 'path' | 'since'> {
  /** Only of tags in this folder, or below. */
  folder?: string
  isActive?: boolean
}

export const alarmEvent = z
  .object({
    id: z.int(),
    at: z.iso.datetime(),
    ...what,
    turn: z.enum(alarmTurns).describe('“dropped”: its limit, or its tag, is no more.'),
    value: z.string(),
    who: z.string().describe('Empty: nobody.'),
    comment: z.string(),
  })
  .meta({ id: 'AlarmEvent', description: 'What became of an alarm.' })
export type ListedAlarmEvent = z.output<typeof alarmEvent>

/** An event on its way. */
export interface AlarmEvent extends Omit<ListedAlarmEvent, 'id' | 'at'> {
  key: string
  at: number
}

export const alarmsStatus = z
  .object({
    limits: z.int().describe('Limits that are watched.'),
    active: z.int(),
    unseen: z.int().describe('Nobody acknowledged them yet.'),
    worst: z.enum(severities).nullable().describe('Of those that are active or not acknowledged; null: there are none.'),
  })
  .meta({ id: 'AlarmsStatus' })
export type AlarmsStatus = z.output<typeof alarmsStatus>
