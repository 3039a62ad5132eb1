import { mqttFrames } from '../wire/frames'
import type { OutletFacts } from './kind'

export const mqttBroker: OutletFacts = {
  kind: 'mqtt-broker',
  title: 'MQTT broker',
  subtitle: 'Tags as topics, and a broker for devices that send and listen',
  capabilities: { clients: true, write: true, check: true, names: false, map: false, card: true, messages: true, sends: true, tap: true },
  frames: mqttFrames,
  renamed: (settings, nowCalled) => {
    const { publishes, ...rest } = settings as unknown as { publishes: { folder: string }[] }
    return { ...rest, publishes: publishes.map((one) => ({ ...one, folder: nowCalled(one.folder) })) } as never
  },
  place: (settings) => `port ${(settings as { doors: { port: number }[] }).doors.map(({ port }) => port).join(', ')}`,
}
