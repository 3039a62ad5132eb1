import { layoutOf } from '#core/iolink/offered'
import { typeFor, valueIn } from '#core/iolink/point'
import type { DataRecord, Item } from '#core/iolink/description/description'
import type { ExpectedDevice } from '#core/iolink/settings'
import { stateWords } from '#core/iolink/states'
import { itemText } from '#core/iolink/shown'
import type { SensorPortFound } from '#shared/links/sensorPorts'
import type { UnitStatus } from '#shared/status'
import type { Image } from './item'
import { deviceText, expectedText } from './identity'
import type { SensorPort } from './port'

/** A port as a part of the far side. */
export const unitOf = (port: SensorPort, expected: ExpectedDevice | null): UnitStatus => {
  const { number, seen, fault, lastFault } = port
  const name = nameOf(port, expected)
  const isWanted = port.targets.size > 0 || expected !== null
  const refused = [...port.targets.values()].filter(({ problem }) => problem?.code === 'iolink.refused' || problem?.code === 'iolink.short')
  return {
    unit: String(number),
    title: `Port ${number}${name === '' ? '' : ` · ${name}`}`,
    flow: fault ? (isWanted ? 'broken' : 'off') : refused.length > 0 ? 'late' : 'flowing',
    sentence: fault && isWanted ? fault.what : stateWords(seen?.state ?? ''),
    answerMs: port.answerMs,
    requests: port.requests,
    failures: port.failures,
    ...{ lateReplies: 0, foreignReplies: 0, rounds: [], leftOutUntil: null },
    lastFault: isWanted ? (fault ?? lastFault) : null,
    refused: refused.slice(0, 20).map(({ point, problem }) => ({ path: point.path, address: point.address, why: problem!.what })),
    refusedCount: refused.length,
  }
}

const nameOf = ({ description, seen }: SensorPort, expected: ExpectedDevice | null): string =>
  description?.named || (seen?.device ? deviceText(seen.device) : (expected?.named ?? ''))

/** A port for whoever decides what becomes of what is plugged in; nothing before it was looked at. */
export const foundPort = (port: SensorPort, expected: ExpectedDevice | null): SensorPortFound[] => {
  const { seen, description, number } = port
  if (!seen) return []
  const { state, device } = seen
  const layout = description ? layoutOf(description.processData, expected) : null
  return [
    {
      ...{ port: number, state, words: stateWords(state), verdict: verdictOf(port, expected), tags: port.targets.size },
      device: device && {
        ...{ vendorId: device.vendorId, deviceId: device.deviceId, vendorName: device.vendorName },
        ...{ productName: device.productName, serialNumber: device.serialNumber },
      },
      described: description && {
        named: description.named || device?.productName || '',
        about: description.variants.find(({ productId }) => productId === device?.productId)?.about ?? '',
        version: description.version,
      },
      expected: expected ? expectedText(expected) : '',
      items: layout ? [...measuredIn(number, 'in', layout.in, port.input), ...measuredIn(number, 'out', layout.out, port.output)] : [],
      events: port.events.list.map(({ code, severity, text }) => ({ code, severity, text })),
      problem: port.fault && (port.targets.size > 0 || expected) ? port.fault.what : '',
    },
  ]
}

const verdictOf = (port: SensorPort, expected: ExpectedDevice | null): SensorPortFound['verdict'] => {
  if (port.fault?.code === 'iolink.wrong') return 'wrong'
  if (port.seen?.device) return port.isUndecided ? 'arrived' : 'taken'
  return expected || port.targets.size > 0 ? 'away' : 'free'
}

const measuredIn = (port: number, side: 'in' | 'out', record: DataRecord | null, image: Image | null): SensorPortFound['items'] =>
  (record?.items ?? []).map((item) => ({
    ...{ name: item.name, about: item.about, address: `${port}:${side}/${item.bitOffset}+${item.type.bits}` },
    ...{ type: typeFor(item.type), unit: item.scale.unit, text: image ? textOf(port, side, item, image) : '' },
  }))

const textOf = (port: number, of: 'in' | 'out', item: Item, { bytes }: Image): string => {
  const { bitOffset, type } = item
  const raw = valueIn({ address: { port, of, bitOffset, bits: type.bits }, type }, bytes)
  return raw === undefined ? '' : itemText(item, raw)
}
