import { fault, type Fault } from '#core/faults/catalogue'
import { pointOf } from '#core/iolink/point'
import { stateWords } from '#core/iolink/states'
import type { PointDefinition } from '#core/links/protocol'
import type { ValueOrigin } from '#shared/values'
import type { Image } from './item'
import type { Asked, Master } from './master'
import { stagesFrom } from './origin'
import type { SensorPort } from './port'

/** Reads a point once, beside what is read again and again. */
export const readOnce = async (
  master: Master,
  portAt: (port: number) => SensorPort | null,
  definition: PointDefinition,
): Promise<ValueOrigin> => {
  const origin = (why: Fault | null, stages: ValueOrigin['stages'] = []): ValueOrigin => ({
    ...{ stages, readings: [], wordsFrom: definition.address, goesTo: [], fault: why },
  })
  const placed = pointOf(definition)
  if (!placed) return origin(fault('entry.unreadable', { problem: `the address ${definition.address}` }))
  const { address } = placed
  const port = portAt(address.port)
  if (!port?.seen) return origin(fault('iolink.empty', { port: address.port, words: stateWords('NOT_AVAILABLE') }))
  const { state, alias, at } = port.seen
  if (address.of === 'state') return origin(null, [{ title: 'The master says', text: state, detail: stateWords(state), at }])
  if (address.of === 'events') return origin(null, [{ title: 'Reported', text: port.events.text || 'nothing', detail: '' }])
  if (port.fault) return origin(port.fault)
  const asked = port.note(await bytesAt(master, alias, address))
  if (!asked.ok) return origin(asked.why)
  const stages = stagesFrom(asked.value, placed, definition.type, { scaling: null, odd: null })
  const { bytes } = asked.value
  const isShort = stages.length < 2 || stages[1]!.text === 'nothing'
  return origin(isShort ? fault('iolink.short', { address: definition.address, bytes: bytes.length }) : null, stages)
}

type BytesAddress = { of: 'in' | 'out' } | { of: 'parameter'; index: number; subindex: number }

const bytesAt = async (master: Master, alias: string, address: BytesAddress): Promise<Asked<Image>> => {
  if (address.of === 'parameter') {
    const asked = await master.parameter(alias, address.index, address.subindex)
    return asked.ok ? { ...asked, value: { bytes: asked.value, at: asked.at, ms: asked.ms } } : asked
  }
  const asked = await master.processData(alias)
  if (!asked.ok) return asked
  const data = address.of === 'in' ? asked.value.getData?.ioLink : asked.value.setData?.ioLink
  return { ...asked, value: { bytes: Uint8Array.from(data?.value ?? []), at: asked.at, ms: asked.ms } }
}
