import { z } from 'zod'
import { hostField, localAddressField, milliseconds, portField, wholeNumber, writeWithin } from '../contracts/fields'
import { clientCertificate, tlsField } from '../contracts/protection'
import { secretField } from '../contracts/secret'
import { layoutContract } from '../messages/layout'
import { topicProblem } from './topic'

export const mqttVersions = ['5', '3.1.1'] as const
export type MqttVersion = (typeof mqttVersions)[number]

export const qosLevels = [0, 1, 2] as const
export type Qos = (typeof qosLevels)[number]
export const qosText: Record<Qos, string> = { 0: 'at most once', 1: 'at least once', 2: 'exactly once' }

const qosField = z.literal(qosLevels, { error: 'A quality of service is 0, 1 or 2.' })
const flag = z.boolean()

/** A client id that servers have to take: 1 to 23 letters and digits (MQTT 3.1.3.1); most take more. */
const clientId = z
  .string({ error: 'A client id is text.' })
  .trim()
  .max(200, 'A client id has at most 200 characters.')
  .refine((text) => !text.includes('\0'), 'A client id holds no NUL.')

const identity = z.discriminatedUnion('kind', [
  z.object({ kind: z.literal('anonymous') }),
  z.object({
    kind: z.literal('password'),
    user: z.string().trim().min(1, 'The name to sign in with.').max(200, 'A name has at most 200 characters.'),
    password: secretField('The password to sign in with.'),
  }),
])

const lastWill = z.object({
  topic: z
    .string({ error: 'A topic is text.' })
    .trim()
    .superRefine((topic, context) => {
      const problem = topicProblem(topic)
      if (problem) context.addIssue({ code: 'custom', message: problem })
    }),
  payload: z.string().max(10_000, 'At most 10,000 characters.').default(''),
  qos: qosField.default(1),
  retain: flag.default(true),
})

/** What an MQTT link is set to. Everything but the host has a default that fits most brokers. */
export const mqttSettings = z
  .object({
    host: hostField.describe('Name or numeric address of the broker.'),
    port: portField.default(1883),
    over: z.enum(['tcp', 'websocket']).default('tcp').describe('What carries it.'),
    path: z
      .string()
      .trim()
      .regex(/^\/[^\s?#]*$/, 'A path begins with “/” and holds no space, “?” or “#”.')
      .max(200, 'A path has at most 200 characters.')
      .default('/mqtt')
      .describe('Where it is below the host, with websocket.'),
    tls: tlsField,
    certificate: clientCertificate.default({ kind: 'none' }).describe('By which certificate of ours we show who we are, with TLS.'),
    version: z.enum(mqttVersions).default('5'),
    identity: identity.default({ kind: 'anonymous' }),
    clientId: clientId
      .default('')
      .describe('By what the broker knows us; empty: another one at each start, under which no session can be kept.'),
    session: z
      .object({
        keep: flag.default(false).describe('The broker keeps what comes while we are away, for messages of QoS 1 and 2.'),
        expiry: wholeNumber('The time a session is kept', 0, 31_536_000).default(3600).describe('For how long, s (MQTT 5.0).'),
      })
      .prefault({}),
    will: lastWill.nullable().default(null).describe('What the broker sends for us when we are gone without a word; null: nothing.'),
    keepAlive: wholeNumber('The keep alive', 5, 65_535).default(30).describe('A sign of life at least so often, s.'),
    reading: z
      .object({
        qos: qosField.default(1),
        retained: z
          .enum(['uncertain', 'good'])
          .default('uncertain')
          .describe('The quality of a message that was kept by the broker and may be old, where it does not say when it was made.'),
        age: milliseconds('The age', 100, 604_800_000)
          .nullable()
          .default(null)
          .describe('After so long without a message a value is uncertain, ms; null: never.'),
      })
      .prefault({}),
    patience: z
      .object({
        connect: milliseconds('The time to connect', 100, 60_000).default(5000),
        answer: milliseconds('The time to answer', 100, 120_000).default(5000),
        retryFirst: milliseconds('The first pause', 100, 600_000).default(1000),
        retryMost: milliseconds('The longest pause', 100, 3_600_000).default(30_000),
      })
      .refine((p) => p.retryFirst <= p.retryMost, { message: 'The longest pause is not below the first.', path: ['retryMost'] })
      .prefault({}),
    writes: z
      .object({
        qos: qosField.default(1),
        retain: flag.default(false),
        keep: z.enum(['all', 'latest']).default('all'),
        within: writeWithin.describe('So long a write may wait, ms; what was not sent by then is not sent at all.'),
      })
      .prefault({}),
    localAddress: localAddressField.describe('The address of the network interface to use; empty: as the system chooses.'),
  })
  .refine(({ session, clientId: id }) => !session.keep || id !== '', {
    message: 'The broker can only keep a session under a client id that stays.',
    path: ['clientId'],
  })

export type MqttSettings = z.output<typeof mqttSettings>

const pathField = z.string().trim().max(400, 'At most 400 characters.')

/** What a point of an MQTT link may have of its own. */
export const mqttPoint = z.object({
  path: pathField.optional().describe('Where in a JSON payload the value is (JSONPath, RFC 9535); left out: the payload is the value.'),
  time: pathField.optional().describe('Where in a JSON payload it says when the value was made; left out: when it came here.'),
  age: z.int().min(100, 'An age is 100 ms or more.').max(604_800_000, 'An age is at most a week.').optional(),
  setTopic: z
    .string()
    .trim()
    .optional()
    .superRefine((topic, context) => {
      const problem = topic === undefined ? null : topicProblem(topic)
      if (problem) context.addIssue({ code: 'custom', message: problem })
    })
    .describe('Where values are sent that are written; left out: to the topic itself.'),
  bytes: layoutContract.optional().describe('Where in the bytes of the payload the value lies; left out: the payload is text or JSON.'),
  send: z.enum(['plain', 'json']).optional().describe('As what values are written: the value alone, or JSON with value, time and quality.'),
})

export type MqttPointOptions = z.output<typeof mqttPoint>
