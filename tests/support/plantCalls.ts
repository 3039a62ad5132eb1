import type { Answer } from './describedCalls'
import { callNodes } from './nodeCalls'
import { callRelays } from './relayCalls'
import { callSensors } from './sensorCalls'
import { callServices } from './servicesCalls'
import type { Site } from './site'

type Call = (method: string, path: string, body?: unknown) => Promise<Answer>

/** What only links of some kinds know, and copies that pair, once each. */
export const callPlant = async (
  call: Call,
  { ventilationPort, sensorPort, databaseUrl }: Pick<Site, 'ventilationPort' | 'sensorPort' | 'databaseUrl'>,
) => {
  await call('GET', '/serial-ports')
  await callServices(call, ventilationPort)
  await callSensors(call, sensorPort)
  await callRelays(call, databaseUrl)
  await callNodes(call)
}
