import { z } from 'zod'
import { milliseconds, nameField, wholeNumber } from '#core/contracts/fields'
import { secretField } from '#core/contracts/secret'
import { qosLevels } from '#core/mqtt/settings'
import { filterProblem } from '#core/mqtt/topic'
import { topicPatternProblem } from '#core/outlets/topicPattern'
import { topicRights } from '#core/outlets/topicRules'
import { clashesIn, doorPlace } from './doors'

/** One door of the broker: where it listens, over what, and how a client may come in. */
const door = z
  .object({
    ...doorPlace(1883),
    over: z.enum(['tcp', 'websocket']).default('tcp'),
    tls: z.boolean().default(false).describe('Encrypted, with our own certificate.'),
    anonymous: z.boolean().default(true),
    names: z.boolean().default(false),
  })
  .refine((d) => d.anonymous || d.names, { message: 'Nobody could come in: allow anonymous clients, or names.', path: ['names'] })

const textField = (what: string, problemIn: (text: string) => string | null) =>
  z
    .string({ error: `${what} is text.` })
    .trim()
    .superRefine((text, context) => {
      const message = problemIn(text)
      if (message) context.addIssue({ code: 'custom', message })
    })

const topicRules = z
  .array(z.object({ filter: textField('A filter', filterProblem), may: z.enum(topicRights) }))
  .max(200, 'At most 200 filters.')
  .describe('What one of these allows is allowed; what none allows is not.')

const user = z.object({
  name: nameField('client'),
  password: secretField('A password.'),
  rules: topicRules.prefault([{ filter: '#', may: 'listen' }]),
})

/** Tags of a folder as topics. */
const publication = z.object({
  folder: z
    .string()
    .trim()
    .max(240, 'A folder has at most 240 characters.')
    .overwrite((folder) => folder.replace(/^\/+|\/+$/g, '')),
  topic: textField('A topic', topicPatternProblem)
    .default('{path}')
    .describe('With {path}, {name}, {folder}, {part1} and so on. Tags that get the same topic go together in one message.'),
  form: z
    .enum(['json', 'plain'])
    .default('json')
    .describe('With value, time, quality and unit; or the value alone, and then only while it is good.'),
  every: milliseconds('The period', 10, 86_400_000).nullable().default(null).describe('Gathered for so long, ms; null: on each change.'),
  qos: z.literal(qosLevels).default(0),
  retain: z.boolean().default(true).describe('Whoever listens later gets the last one at once.'),
  set: z
    .union([z.literal(''), textField('A topic', topicPatternProblem)])
    .default('')
    .describe('The topic that sets a tag which may be written; empty: none does.'),
})

/** How much clients may take, so that one leaves something for the others. */
const limits = z.object({
  connections: wholeNumber('The most connections of a door', 1, 10_000).default(500),
  perAddress: wholeNumber('The most connections from one address', 1, 10_000).default(100),
  payload: wholeNumber('The largest message', 1, 65_536).default(1024).describe('kB'),
  kept: wholeNumber('The most that is kept for a client that is away', 1, 1_000_000)
    .default(10_000)
    .describe('Messages; beyond, the oldest are dropped and counted.'),
  retained: wholeNumber('The most topics that keep a message of clients', 1, 1_000_000).default(20_000),
})

/** An MQTT broker: its doors, who may come in and do what, and which tags it publishes. */
export const mqttBrokerSettings = z
  .object({
    doors: z.array(door).min(1, 'At least one door.').max(16, 'At most 16 doors.').prefault([{}]),
    /** What clients without a name may do. */
    anonymous: topicRules.prefault([{ filter: '#', may: 'listen' }]),
    users: z.array(user).max(200, 'At most 200 names.').default([]),
    publishes: z
      .array(publication)
      .max(200, 'At most 200 folders.')
      .prefault([{ folder: '' }]),
    limits: limits.prefault({}),
  })
  .superRefine(({ doors, users, publishes }, context) => {
    clashesIn(doors, users, context)
    for (const [i, { form, topic, set }] of publishes.entries()) {
      if (set !== '' && set === topic)
        context.addIssue({ code: 'custom', path: ['publishes', i, 'set'], message: 'The topic to set a tag is another one than its own.' })
      if (form === 'plain' && !/\{(path|name|part\d+)\}/.test(topic))
        context.addIssue({
          code: 'custom',
          path: ['publishes', i, 'topic'],
          message: 'With the value alone, each tag needs a topic of its own: with {path} or {name}.',
        })
    }
  })

export type MqttBrokerSettings = z.output<typeof mqttBrokerSettings>
export type BrokerDoor = MqttBrokerSettings['doors'][number]
export type BrokerUser = MqttBrokerSettings['users'][number]
export type Publication = MqttBrokerSettings['publishes'][number]

/** By what clients dial a door. */
export const schemeOf = ({ over, tls }: Pick<BrokerDoor, 'over' | 'tls'>) =>
  over === 'websocket' ? (tls ? 'wss' : 'ws') : tls ? 'mqtts' : 'mqtt'
