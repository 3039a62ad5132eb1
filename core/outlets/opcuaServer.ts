import { uaFrames } from '../wire/frames'
import type { OutletFacts } from './kind'

export const opcuaServer: OutletFacts = {
  kind: 'opcua-server',
  title: 'OPC UA server',
  subtitle: 'SCADA and others browse, subscribe to and write the tags',
  capabilities: { clients: true, write: true, check: true, names: true, card: true, tap: true },
  frames: uaFrames,
  place: (settings) => `port ${(settings as { doors: { port: number }[] }).doors.map(({ port }) => port).join(', ')}`,
}
