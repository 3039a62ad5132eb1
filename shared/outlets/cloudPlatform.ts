import { z } from 'zod'
import { lineField, milliseconds, wholeNumber } from '#core/contracts/fields'
import { httpSettings } from '#core/http/settings'
import { mqttSettings } from '#core/mqtt/settings'

const folderField = z
  .string()
  .trim()
  .max(240, 'A folder has at most 240 characters.')
  .overwrite((folder) => folder.replace(/^\/+|\/+$/g, ''))

const everyField = milliseconds('The interval', 10, 86_400_000)
  .nullable()
  .default(null)
  .describe('At most one value each so often, the latest, ms; null: each change.')

const { host, port, over, path, tls, certificate, identity, clientId, keepAlive, patience } = mqttSettings.shape

/** How a platform is reached. Each has an adapter of one file in the engine. */
export const platformWay = z.discriminatedUnion(
  'kind',
  [
    z.object({
      kind: z.literal('http'),
      ...httpSettings.pick({ base: true, trust: true, proxy: true, signIn: true, headers: true, patience: true }).shape,
    }),
    z.object({
      kind: z.literal('mqtt'),
      ...{ host, port, over, path, tls, certificate, identity, clientId, keepAlive, patience },
      root: z
        .string()
        .trim()
        .min(1, 'The first levels of its topics.')
        .max(200, 'At most 200 characters.')
        .refine((text) => !/[+#\0]/.test(text), 'A topic holds no “+”, “#” or NUL.')
        .overwrite((text) => text.replace(/^\/+|\/+$/g, ''))
        .default('conduit')
        .describe('What its topics begin with.'),
    }),
  ],
  { error: 'A platform is reached by HTTP or by MQTT.' },
)
export type PlatformWay = z.output<typeof platformWay>
export type HttpWay = Extract<PlatformWay, { kind: 'http' }>
export type MqttWay = Extract<PlatformWay, { kind: 'mqtt' }>

/** A platform that gets the model of this site, and values. */
export const cloudPlatformSettings = z.object({
  way: platformWay,
  site: lineField('A name', 80)
    .regex(/^[A-Za-z0-9][A-Za-z0-9_.-]*$/, 'Letters, digits, “_”, “-” and “.”; it begins with a letter or digit.')
    .describe('By what the platform knows this site; another name is another site there.'),
  model: z
    .object({
      on: z.boolean().default(true),
      areas: z
        .array(folderField)
        .max(200, 'At most 200 areas.')
        .default([''])
        .describe('Equipment of these paths, with all below, stands there too; an empty one: all.'),
      every: everyField,
      follow: z
        .enum(['asked', 'after the first', 'at once'])
        .default('after the first')
        .describe('When changes here follow there: whenever somebody says so, by themselves once somebody said so, or by themselves.'),
      names: z.enum(['here', 'there']).default('here').describe('Whose name holds where something was renamed over there.'),
    })
    .prefault({}),
  streams: z
    .array(z.object({ folder: folderField, every: everyField }))
    .max(200, 'At most 200 folders.')
    .default([])
    .describe('Tags of these folders go there as well, whether equipment has them or not.'),
  sending: z
    .object({
      every: milliseconds('The pause', 50, 60_000).default(1000).describe('Values are gathered for so long, ms.'),
      most: wholeNumber('The most values of a message', 100, 100_000).default(5000),
      kept: wholeNumber('What is kept', 1, 100_000)
        .default(512)
        .describe('So much is kept on disk while the platform takes nothing, MB; beyond, the oldest is dropped and counted.'),
    })
    .prefault({}),
})
export type CloudPlatformSettings = z.output<typeof cloudPlatformSettings>
