import type { Reference } from '../links/reference'
import { dataTypes } from '../tags/types'
import { mostPayloadBytes } from '../messages/payload'
import { hexCode, reasonOf } from './reasons'
import type { MqttSettings } from './settings'

/** What brokers answer most often, with what to do about it. */
const answers: [code: number, next: string][] = [
  [4, 'Correct the name or the password; the broker’s owner knows them.'],
  [5, 'Let the broker’s owner allow this name to connect.'],
  [0x80, 'Look at the rights on the broker: 3.1.1 has this one code for everything that is refused.'],
  [0x87, 'Let the broker’s owner allow this topic.'],
  [0x8e, 'Give this link a client id that nobody else uses.'],
  [0x95, 'Send less in one message, or let the broker take more.'],
  [0x97, 'Let the broker’s owner raise the limit.'],
]

/** Topics, paths, limits and reason codes of MQTT (5.0 and 3.1.1), as this link has them. */
export const mqttReference = (settings: MqttSettings): Reference => ({
  notation: [
    { form: 'berth/2/power', about: 'a topic: levels divided by “/”, capitals and small letters apart' },
    { form: '$.power.kw', about: 'as path: a member of a JSON payload (RFC 9535)' },
    { form: '$.lamps[0].lux', about: 'as path: an element of a list' },
    { form: "$.lamps[?@.id=='b'].lux", about: 'as path: the element that is so' },
  ],
  places: [
    {
      name: 'topic',
      about: `listened to with QoS ${settings.reading.qos}; written with QoS ${settings.writes.qos}`,
      types: dataTypes,
      usual: 'float64',
      writable: true,
    },
  ],
  limits: [
    { what: 'A topic', is: 'up to 65,535 bytes' },
    { what: 'A JSON payload', is: `looked into up to ${(mostPayloadBytes / 1024 / 1024).toLocaleString('en-GB')} MB` },
    { what: 'Times', is: 'ISO 8601, or seconds or milliseconds since 1970' },
  ],
  errors: answers.map(([code, next]) => {
    const { name, words } = reasonOf(code)
    return { code: `${hexCode(code)} ${name}`, words, next }
  }),
})
