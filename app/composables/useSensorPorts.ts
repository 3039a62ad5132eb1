import { listSensorPorts } from '#shared/api/links'
import type { SensorPortFound } from '#shared/links/sensorPorts'

const everyMs = 1000

/** What is plugged in at the ports of a master, looked at again and again. */
export const useSensorPorts = (linkId: () => number) => {
  const ports = shallowRef<SensorPortFound[] | null>(null)
  const refused = shallowRef<Refused | null>(null)
  const look = async () => {
    const id = linkId()
    try {
      const found = await callApi(listSensorPorts, { params: { id } })
      if (id === linkId()) ports.value = found
      refused.value = null
    } catch (error) {
      refused.value = asRefused(error)
    }
  }
  useRepeated(look, everyMs)
  return { ports, refused, look }
}
