import type { MqttBrokerSettings } from '#shared/outlets/mqttBroker'
import type { OutletDriver } from '../driver'
import { MqttBrokerSession } from './session'

export const mqttBrokerDriver: OutletDriver<MqttBrokerSettings> = {
  open: (context) => new MqttBrokerSession(context),
}
