import { bacnetFaultText, isBacnetFault } from '../bacnet/device'
import type { SubstationServices } from '../bacnet/substation'

export const describeSubstation = ({ devices: [ventilation], hall, setPointNow, devices }: SubstationServices) => ({
  requests: devices.reduce((total, { requests }) => total + requests, 0),
  subscriptions: ventilation!.subscribers.length,
  faults: bacnetFaultText,
  active: [...ventilation!.faults],
  state: { ...hall.state, setPoint: setPointNow },
})

/** Faults of the ventilation; null where the path is none of ours. */
export const substationRoute = async (
  { ventilation }: SubstationServices,
  path: string,
  readBody: () => Promise<Record<string, unknown>>,
) => {
  if (path !== '/api/substation/fault') return null
  const { fault, on = true } = await readBody()
  if (!isBacnetFault(fault)) return { status: 400, body: { problem: `fault is one of ${Object.keys(bacnetFaultText).join(', ')}` } }
  ventilation.setFault(fault, on === true)
  return { status: 200, body: { done: true } }
}
