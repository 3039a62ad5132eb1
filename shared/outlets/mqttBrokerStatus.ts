import { z } from 'zod'
import { doorStatus } from './doorStatus'
import { refusedAct } from './refusedAct'

const keptSession = z
  .object({
    client: z.string(),
    connected: z.boolean(),
    topics: z.int().describe('What it listens to.'),
    waiting: z.int().describe('Messages that wait for it.'),
    dropped: z.int().describe('Messages that were dropped because too many waited.'),
  })
  .meta({ id: 'KeptSession', description: 'A client whose session is kept while it is away.' })
export type KeptSession = z.output<typeof keptSession>

/** How an MQTT broker is, beyond what every outlet tells. */
export const mqttBrokerDetails = z
  .object({
    kind: z.literal('mqtt-broker'),
    doors: z.array(doorStatus),
    sessions: z.array(keptSession).describe('The first of the sessions that are kept.'),
    sessionCount: z.int(),
    retained: z.int().describe('Topics of clients that keep a message.'),
    published: z.int().describe('Topics of tags.'),
    notPublished: z.array(z.object({ path: z.string(), problem: z.string() })).describe('Tags that have no topic, and why.'),
    receivedPerSecond: z.number(),
    sentPerSecond: z.number(),
    dropped: z.int().describe('Messages that slow clients did not get.'),
    refused: z.array(refusedAct),
  })
  .meta({ id: 'MqttBrokerDetails' })
export type MqttBrokerDetails = z.output<typeof mqttBrokerDetails>
