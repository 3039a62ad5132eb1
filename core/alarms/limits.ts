import { z } from 'zod'
import { lineField, milliseconds } from '../contracts/fields'
import { isNumeric, type DataType } from '../tags/types'

/**
 * Limits of a tag: from where on its value is an alarm (IEC 62682; OPC 10000-9, 5.8). High and low are crossed first, higher and
 * lower beyond them.
 */
export const levelKinds = ['higher', 'high', 'low', 'lower'] as const
export type LevelKind = (typeof levelKinds)[number]
export const limitKinds = [...levelKinds, 'rate', 'state'] as const
export type LimitKind = (typeof limitKinds)[number]

export const severities = ['note', 'caution', 'trouble'] as const
export type AlarmSeverity = (typeof severities)[number]

/** What becomes of an alarm; “dropped”: its limit, or its tag, is no more. */
export const alarmTurns = ['raised', 'over', 'acknowledged', 'commented', 'dropped'] as const
export type AlarmTurn = (typeof alarmTurns)[number]

const finite = (what: string) => z.number({ error: `${what} is a number.` })

const common = {
  name: lineField('A name', 60)
    .refine((name) => !/[;:]/.test(name), 'A name has no semicolon and no colon: they end it where limits are written in one line.')
    .default('')
    .describe('By what it is told from the others of the tag; empty: by its kind.'),
  delay: milliseconds('The delay', 0, 86_400_000)
    .default(0)
    .describe('The value has to stay beyond for so long before it is an alarm, ms.'),
  severity: z.enum(severities).default('caution'),
  text: lineField('A text', 200).default('').describe('What somebody who sees it should know; empty: in plain words what happened.'),
  acknowledge: z.boolean().default(true).describe('Somebody has to say that it was seen.'),
}

const band = finite('The way back')
  .min(0, 'The way back has no sign.')
  .default(0)
  .describe('So far the value has to come back before it is over.')

export const limitContract = z.discriminatedUnion(
  'kind',
  [
    ...levelKinds.map((kind) => z.object({ ...common, kind: z.literal(kind), at: finite('A limit'), band })),
    z.object({
      ...common,
      kind: z.literal('rate'),
      at: finite('A rate')
        .positive('A rate is above 0; which way it counts is said beside it.')
        .describe('In the unit of the tag, a second.'),
      way: z.enum(['either', 'rising', 'falling']).default('either'),
      over: milliseconds('The span', 100, 86_400_000).default(1000).describe('Measured over so long, ms.'),
      band,
    }),
    z.object({
      ...common,
      kind: z.literal('state'),
      not: z.boolean().default(false).describe('It is an alarm while the value is none of these.'),
      values: z
        .array(z.union([z.boolean(), z.number(), z.string().max(200)]))
        .min(1, 'Which values.')
        .max(50, 'At most 50 values.'),
    }),
  ] as never,
  { error: 'A limit is higher, high, low, lower, rate or state.' },
) as unknown as z.ZodType<Limit, LimitInput>

interface Common {
  name: string
  delay: number
  severity: AlarmSeverity
  text: string
  acknowledge: boolean
}
export type LevelLimit = Common & { kind: LevelKind; at: number; band: number }
export type RateLimit = Common & { kind: 'rate'; at: number; way: 'either' | 'rising' | 'falling'; over: number; band: number }
export type StateLimit = Common & { kind: 'state'; not: boolean; values: (boolean | number | string)[] }
export type Limit = LevelLimit | RateLimit | StateLimit
type Given<T> = Partial<Omit<T, 'kind' | 'at' | 'values'>>
export type LimitInput =
  | ({ kind: LevelKind; at: number } & Given<LevelLimit>)
  | ({ kind: 'rate'; at: number } & Given<RateLimit>)
  | ({ kind: 'state'; values: (boolean | number | string)[] } & Given<StateLimit>)

export const isLevel = (limit: Limit): limit is LevelLimit => limit.kind !== 'rate' && limit.kind !== 'state'

/** By what a limit is known among those of its tag. */
export const limitName = ({ name, kind }: Pick<Limit, 'name' | 'kind'>): string => name || kind

export const mostLimits = 20

export const limitsContract = z
  .array(limitContract)
  .max(mostLimits, `At most ${mostLimits} limits.`)
  .superRefine((limits, context) => {
    const names = new Set<string>()
    for (const [i, limit] of limits.entries()) {
      const name = limitName(limit).toLowerCase()
      if (names.has(name))
        context.addIssue({ code: 'custom', path: [i, 'name'], message: `There is a limit “${name}” already; give one of them a name.` })
      names.add(name)
    }
    for (const { index, message } of disorder(limits)) context.addIssue({ code: 'custom', path: [index, 'at'], message })
  })
  .describe('From where on its value is an alarm.')

/** A higher limit lies beyond the high one, a lower beyond the low one, and the low ones below the high ones. */
const disorder = (limits: readonly Limit[]): { index: number; message: string }[] => {
  const order: LevelKind[] = ['lower', 'low', 'high', 'higher']
  const levels = limits.flatMap((limit, index) => (isLevel(limit) ? [{ index, limit }] : []))
  return levels.flatMap(({ index, limit }) => {
    const rank = order.indexOf(limit.kind)
    const wrong = levels.find(({ limit: other }) => order.indexOf(other.kind) < rank && other.at >= limit.at)
    return wrong ? [{ index, message: `It lies above ${limitName(wrong.limit)}, which is ${wrong.limit.at}.` }] : []
  })
}

/** What is wrong with limits in the light of the type of their tag. */
export const limitProblems = (limits: readonly Limit[], type: DataType): { path: string; message: string }[] =>
  limits.flatMap((limit, i) => {
    if (limit.kind === 'state') return stateProblem(limit, type, i)
    return isNumeric(type) ? [] : [{ path: `limits.${i}.kind`, message: `Only numbers have such a limit; a ${type} has states at most.` }]
  })

const stateProblem = ({ values }: StateLimit, type: DataType, i: number): { path: string; message: string }[] => {
  if (type.endsWith('[]') || type === 'datetime') return [{ path: `limits.${i}.kind`, message: `A ${type} has no states.` }]
  const wanted = type === 'bool' ? 'boolean' : type === 'string' ? 'string' : 'number'
  const wrong = values.find((value) => typeof value !== wanted)
  return wrong === undefined ? [] : [{ path: `limits.${i}.values`, message: `“${String(wrong)}” is no value of a ${type}.` }]
}
