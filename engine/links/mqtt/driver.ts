import { fault } from '#core/faults/catalogue'
import type { MqttSettings } from '#core/mqtt/settings'
import type { LinkDriver } from '../driver'
import { checkMqtt } from './check'
import { MqttLinkSession } from './session'

export const mqttDriver: LinkDriver<MqttSettings> = {
  open: (context) => new MqttLinkSession(context),
  check: checkMqtt,
  // only the link itself may come with its client id, and only it has the rights that go with it
  tryRead: ({ host, port }, { address }) =>
    Promise.resolve({ stages: [], readings: [], wordsFrom: address, goesTo: [], fault: fault('mqtt.not-connected', { host, port }) }),
}
