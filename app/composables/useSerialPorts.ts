import { listSerialPorts } from '#shared/api/links'
import type { MachinePort } from '#shared/serialPorts'

/** The serial ports that the engine’s machine has, as it is when somebody looks. */
export const useSerialPorts = () => {
  const ports = shallowRef<MachinePort[] | null>(null)
  const look = async () => {
    ports.value = await callApi(listSerialPorts).catch(() => null)
  }
  onMounted(look)
  return { ports, look }
}
