import type { CableSensors } from '../iolink/cableSensors'
import { isMasterFault, masterFaultText } from '../iolink/master'

export const describeSensors = ({ master, spare }: CableSensors) => ({
  requests: master.requests,
  faults: { ...masterFaultText, ...Object.fromEntries(spare.map(({ description }, i) => [plugOf(i), `${description.named} is plugged in at port ${i + 1}`])) }, // prettier-ignore
  active: [...master.faults, ...master.ports.flatMap((sensor, i) => (sensor ? [plugOf(i)] : []))],
  ports: master.ports.map((sensor) => sensor && { name: sensor.description.named, serialNumber: sensor.serialNumber }),
})

const plugOf = (i: number) => `port${i + 1}`

/** Faults of the master, and what is plugged in: by port, one of the sensors there are, or nothing. Null where the path is none of ours. */
export const sensorsRoute = async (sensors: CableSensors, path: string, readBody: () => Promise<Record<string, unknown>>) => {
  if (path === '/api/sensors/fault') return setFault(sensors, await readBody())
  if (path === '/api/sensors/plug') return plug(sensors, await readBody())
  if (path === '/api/sensors/event') return report(sensors, await readBody())
  return null
}

const done = { status: 200, body: { done: true } }
const refused = (problem: string) => ({ status: 400, body: { problem } })

const setFault = (sensors: CableSensors, { fault, on = true }: Record<string, unknown>) => {
  const port = typeof fault === 'string' ? /^port([1-4])$/.exec(fault)?.[1] : undefined
  if (port) return plug(sensors, { port: Number(port), sensor: on === true ? Number(port) : null })
  if (!isMasterFault(fault)) return refused(`fault is one of ${Object.keys(masterFaultText).join(', ')}`)
  if (on === true) sensors.master.faults.add(fault)
  else sensors.master.faults.delete(fault)
  return done
}

/** `sensor`: which one, 1 to 4; null: the plug is pulled. */
const plug = ({ master, spare }: CableSensors, { port, sensor = null }: Record<string, unknown>) => {
  if (typeof port !== 'number' || port < 1 || port > 4) return refused('port is 1 to 4')
  const chosen = sensor === null ? null : spare[Number(sensor) - 1]
  if (chosen === undefined) return refused('sensor is 1 to 4, or null')
  master.plug(port, chosen)
  return done
}

const report = ({ master }: CableSensors, { port, code, over = false }: Record<string, unknown>) => {
  if (typeof port !== 'number' || typeof code !== 'number') return refused('port and code are numbers')
  master.report(port, code, over === true ? 'DISAPPEARS' : 'APPEARS')
  return done
}
