import type { Answer } from './describedCalls'
import { callSensors } from './sensorCalls'
import { callServices } from './servicesCalls'
import type { Site } from './site'

type Call = (method: string, path: string, body?: unknown) => Promise<Answer>

/** What only links of some kinds know, once each. */
export const callPlant = async (call: Call, { ventilationPort, sensorPort }: Pick<Site, 'ventilationPort' | 'sensorPort'>) => {
  await call('GET', '/serial-ports')
  await callServices(call, ventilationPort)
  await callSensors(call, sensorPort)
}
