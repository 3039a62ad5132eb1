import { z } from 'zod'
import { alarmTurns, severities } from '../alarms/limits'
import { idField, lineField, milliseconds, nameField, wholeNumber } from '../contracts/fields'
import { qosLevels } from '../mqtt/settings'
import { filterProblem } from '../mqtt/topic'
import { headerName } from '../contracts/headerFields'
import { wayProblem } from '../files/settings'
import { operationName } from '../http/settings'
import { lookUpContract } from './lookUps'
import { patternProblem } from '../tags/pattern'
import { cronProblem, zoneProblem } from './schedule'

/** What a bridge is: when it runs, what it takes, what it sends where, and what becomes of it while the receiver is away. */

const checkedBy = (field: z.ZodType<string>, problemIn: (text: string) => string | null) =>
  field.superRefine((text, context) => {
    const problem = problemIn(text)
    if (problem) context.addIssue({ code: 'custom', message: problem })
  })

const linkField = idField('A link')
const outletField = idField('An outlet')
const tagPattern = checkedBy(z.string({ error: 'The path of a tag.' }).trim(), patternProblem)
const expressionField = (what: string) =>
  z
    .string({ error: `${what} is a name or a formula.` })
    .trim()
    .min(1, `${what} comes from an input, a name or a formula.`)
    .max(2000, 'At most 2,000 characters.')
const templateField = (what: string, most = 400) =>
  z
    .string({ error: `${what} is text.` })
    .trim()
    .max(most, `${what} has at most ${most} characters.`)

const filterField = checkedBy(z.string({ error: 'A topic, or a filter.' }).trim(), filterProblem)
const finite = (what: string) => z.number({ error: `${what} is a number.` })

/** What the clock and tags set off. */
export const timelyTriggers = z.discriminatedUnion('kind', [
  z.object({
    kind: z.literal('change'),
    tag: tagPattern.describe('A path, or a pattern: “*” stands for what is within a level, “**” at the end for all below.'),
    by: finite('The change')
      .min(0, 'A change has no sign.')
      .nullable()
      .default(null)
      .describe('By more than this since the last run; null: by anything.'),
  }),
  z.object({
    kind: z.literal('edge'),
    tag: tagPattern,
    to: z.enum(['true', 'false', 'either']).default('true'),
  }),
  z.object({
    kind: z.literal('limit'),
    tag: tagPattern,
    way: z.enum(['above', 'below']).default('above'),
    limit: finite('The limit'),
    back: finite('The way back')
      .min(0, 'The way back has no sign.')
      .default(0)
      .describe('So far it has to come back before it can cross again.'),
  }),
  z.object({ kind: z.literal('period'), every: milliseconds('The period', 10, 86_400_000) }),
  z.object({
    kind: z.literal('schedule'),
    cron: checkedBy(z.string({ error: 'A schedule has five or six fields, as in 0 6 * * 1-5.' }).trim(), cronProblem).describe(
      'Minute, hour, day of the month, month, day of the week; with six fields, the second before them.',
    ),
    zone: checkedBy(z.string({ error: 'A time zone, as in Europe/Oslo.' }).trim().max(60), zoneProblem)
      .default('UTC')
      .describe('A time zone of the IANA database, as in Europe/Oslo.'),
  }),
])

export const triggerContract = z.discriminatedUnion('kind', [
  ...timelyTriggers.options,
  z.object({
    kind: z.literal('message'),
    linkId: linkField,
    filter: filterField,
    qos: z.literal(qosLevels).default(1),
  }),
  z.object({ kind: z.literal('client'), outletId: outletField, filter: filterField }),
  z.object({
    kind: z.literal('alarm'),
    tag: tagPattern.default('**'),
    turns: z
      .array(z.enum(alarmTurns))
      .min(1, 'What has to become of an alarm.')
      .default(['raised'])
      .describe('What becomes of the alarm. It comes as a message: path, limit, severity, turn, text, value, at, who and comment.'),
    severity: z.enum(severities).default('note').describe('Only alarms of this severity or a worse one.'),
  }),
  z.object({
    kind: z.literal('file'),
    linkId: linkField,
    files: checkedBy(lineField('A name', 200).min(1, 'Which files, as in counts/*.csv.'), wayProblem).describe(
      'Below the folder of the link; “*” stands for what is within a name.',
    ),
    by: z.enum(['line', 'whole']).default('line').describe('Each line that is added, or each file once it no longer grows.'),
    form: z.enum(['csv', 'json', 'text']).default('csv'),
    delimiter: z.enum([',', ';', 'tab']).default(','),
    decimal: z.enum(['.', ',']).default('.'),
    header: z.boolean().default(true).describe('The first line names the columns; without one they are c1, c2 and so on.'),
    encoding: z.enum(['utf-8', 'utf-16le', 'windows-1252']).default('utf-8'),
    first: z.enum(['new', 'all']).default('new').describe('Of files that are there already: only what is added, or all that they hold.'),
    every: milliseconds('The time between two looks', 100, 3_600_000).default(1000),
  }),
])
export type Trigger = z.output<typeof triggerContract>

/** Whether there is a message to look into when this sets a bridge off. */
export const bringsMessage = ({ kind }: Pick<Trigger, 'kind'>) =>
  kind === 'message' || kind === 'client' || kind === 'file' || kind === 'alarm'
export type FileTrigger = Extract<Trigger, { kind: 'file' }>

export const inputName = z
  .string({ error: 'An input needs a name.' })
  .trim()
  .regex(/^[a-zA-Z][a-zA-Z0-9_]{0,39}$/, 'A name begins with a letter and goes on with letters, digits and “_”, 40 at most.')

const missingContract = z.discriminatedUnion('do', [
  z.object({ do: z.literal('skip') }),
  z.object({ do: z.literal('null') }),
  z.object({ do: z.literal('last') }),
  z.object({ do: z.literal('wait'), within: milliseconds('The time to wait', 10, 60_000).default(1000) }),
])
export type Missing = z.output<typeof missingContract>

const inputShape = {
  name: inputName,
  missing: missingContract
    .default({ do: 'skip' })
    .describe('Where it is missing or bad: the run is skipped, null is sent, the last good value is taken, or it is waited for.'),
}

const eachField = z.boolean().default(false).describe('What it has is a list, and each element of it makes a row of its own.')

const fieldContract = z.object({
  into: z.string({ error: 'A field has a name.' }).trim().min(1, 'A field has a name.').max(240, 'At most 240 characters.'),
  from: expressionField('A field'),
})
export type Field = z.output<typeof fieldContract>

export const inputContract = z.discriminatedUnion('kind', [
  z.object({ ...inputShape, kind: z.literal('tag'), path: templateField('A path', 240).min(1, 'The path of a tag.') }),
  z.object({
    ...inputShape,
    kind: z.literal('member'),
    path: templateField('A path')
      .min(1, 'A path into the message, as in $.power.kw (RFC 9535).')
      .describe('JSONPath (RFC 9535) into the message.'),
    each: eachField,
  }),
  z.object({
    ...inputShape,
    kind: z.literal('query'),
    linkId: linkField,
    statement: z
      .string({ error: 'A statement is text.' })
      .trim()
      .min(1, 'A statement that asks for rows, as in select vessel from call where berth = {part2}.')
      .max(4000, 'At most 4,000 characters.')
      .describe('What stands in braces is worked out for each run and handed over beside the text.'),
    each: eachField,
  }),
  z.object({
    ...inputShape,
    kind: z.literal('call'),
    linkId: linkField,
    operation: operationName,
    given: z.array(fieldContract).max(50, 'At most 50 parameters.').default([]).describe('What its parameters come from.'),
    path: templateField('A path').default('').describe('JSONPath (RFC 9535) into the answer; empty: the whole answer.'),
    each: eachField,
  }),
  z.object({
    ...inputShape,
    kind: z.literal('constant'),
    value: z.union([z.string().max(2000), z.number(), z.boolean()]),
  }),
])
export type Input = z.output<typeof inputContract>

const mostFields = 200
const someFields = z.array(fieldContract).max(mostFields, `At most ${mostFields} fields.`)
const fields = someFields.min(1, 'At least one field.')

export const awayContract = z.object({
  keep: z.enum(['none', 'latest', 'all']).default('all').describe('What becomes of records while the receiver is away.'),
  most: wholeNumber('The most that is kept', 1, 1_000_000)
    .default(1000)
    .describe('So many MB; beyond, the oldest are dropped and counted.'),
  days: wholeNumber('The age', 1, 3650).nullable().default(null).describe('Older records are dropped and counted; null: none is too old.'),
})
export type Away = z.output<typeof awayContract>

const sendShape = {
  /** Stays with the destination through all edits: what is kept for it is found by it. */
  number: wholeNumber('The number of a destination', 1, 1000),
  fields,
  away: awayContract.prefault({}),
}

const messageShape = {
  topic: templateField('A topic').min(1, 'The topic to send to.'),
  form: z.enum(['json', 'plain']).default('json').describe('One JSON object with all fields, or the one field as text.'),
  qos: z.literal(qosLevels).default(1),
  retain: z.boolean().default(false),
}

export const csvWayContract = z
  .object({
    delimiter: z.enum([',', ';', 'tab']).default(','),
    decimal: z.enum(['.', ',']).default('.'),
    quote: z.enum(['needed', 'text', 'all']).default('needed'),
    header: z.boolean().default(true),
    newline: z.enum(['crlf', 'lf']).default('crlf'),
    encoding: z.enum(['utf-8', 'utf-8-bom', 'utf-16le', 'windows-1252']).default('utf-8'),
  })
  .refine(({ delimiter, decimal }) => delimiter !== ',' || decimal !== ',', {
    message: 'A decimal comma needs another delimiter.',
    path: ['decimal'],
  })
export type CsvWay = z.output<typeof csvWayContract>

export const destinationContract = z.discriminatedUnion('kind', [
  z.object({ ...sendShape, kind: z.literal('tags') }),
  z.object({ ...sendShape, kind: z.literal('topic'), linkId: linkField, ...messageShape }),
  z.object({ ...sendShape, kind: z.literal('outlet'), outletId: outletField, ...messageShape }),
  z.object({
    ...sendShape,
    kind: z.literal('table'),
    linkId: linkField,
    schema: lineField('A schema', 63).default('').describe('Empty: the one that the database looks into first.'),
    table: lineField('A table', 63).min(1, 'The table that rows go into.'),
    how: z
      .enum(['insert', 'upsert', 'update', 'call'])
      .default('insert')
      .describe('With “call” the table is a procedure, and fields are its parameters.'),
    parts: z
      .object({
        column: lineField('A column', 63).min(1, 'The column of times.'),
        per: z.enum(['day', 'month']).default('month'),
        ahead: wholeNumber('The number of parts', 1, 100).default(2).describe('So many are made ahead.'),
        keep: wholeNumber('The number of days', 1, 36_500)
          .nullable()
          .default(null)
          .describe('Older parts are dropped with all their rows; null: none is.'),
      })
      .nullable()
      .default(null)
      .describe('The table is parted by time, and the parts are looked after.'),
    key: z.array(lineField('A column', 63)).max(16).default([]).describe('Columns by which a row is found again.'),
  }),
  z.object({
    ...sendShape,
    kind: z.literal('file'),
    linkId: linkField,
    name: templateField('A name', 200).min(1, 'The name of the file, as in meters.csv.'),
    per: z
      .enum(['one', 'run', 'day', 'size'])
      .default('one')
      .describe('One file, or another for each run, day (UTC), or once it is large.'),
    most: wholeNumber('The size', 1, 10_000).default(100).describe('With “size”: so many MB.'),
    way: csvWayContract.prefault({}),
  }),
  z.object({
    ...sendShape,
    kind: z.literal('call'),
    fields: someFields.describe('What the parameters of the operation come from.'),
    linkId: linkField,
    operation: operationName,
    keyHeader: z
      .union([z.literal(''), headerName])
      .default('Idempotency-Key')
      .describe('The header by which a record that is sent again is known again; empty: none is sent.'),
  }),
])
export type Destination = z.output<typeof destinationContract>
export type DestinationKind = Destination['kind']
export type MessageDestination = Extract<Destination, { kind: 'topic' | 'outlet' }>

const gatherContract = z.object({
  within: milliseconds('The time to gather', 1, 3_600_000).describe('A run at the latest so long after the first.'),
  most: wholeNumber('The number to gather', 1, 100_000).default(1000).describe('A run at once when so many are there.'),
})

export const bridgeContract = z
  .object({
    name: nameField('bridge'),
    on: z.boolean().default(true),
    when: z.array(triggerContract).max(20, 'At most 20 triggers.').default([]).describe('Any of these sets it off; none: by hand only.'),
    gather: gatherContract.nullable().default(null).describe('Bursts become one delivery; null: each is delivered at once.'),
    take: z.array(inputContract).max(50, 'At most 50 inputs.').default([]),
    lookUps: z.array(lookUpContract).max(20, 'At most 20 look-up tables.').default([]),
    send: z.array(destinationContract).min(1, 'A bridge sends to at least one place.').max(20, 'At most 20 places.'),
    nodeId: idField('A node')
      .nullable()
      .default(null)
      .describe('The node that runs it, with what its links have; null: this site’s own engine.'),
  })
  .meta({ id: 'BridgeDraft' })
export type BridgeDraft = z.output<typeof bridgeContract>
