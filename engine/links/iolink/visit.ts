import { fault, type Fault } from '#core/faults/catalogue'
import { offeredAt, rooms, type OfferedPoint, type Room } from '#core/iolink/offered'
import { pointOf, valueIn } from '#core/iolink/point'
import { parseAddress } from '#core/iolink/address'
import { stateWords } from '#core/iolink/states'
import { quality } from '#core/tags/quality'
import { valueText } from '#core/text/number'
import type { BranchPart, BrowsedNode, Children, Place, PlaceDetails, SearchPart } from '#shared/browse'
import { toWire } from '#shared/values'
import type { LinkBrowser } from '../driver'
import { LookingFault } from '../looking'
import type { Image } from './item'
import { parameterKey } from './parameterRead'
import { deviceText } from './identity'
import type { SensorPort } from './port'

interface Around {
  ports(): SensorPort[]
  port(number: number): SensorPort | null
}

/** Ports as places, in them process data and parameters by the description of the device that is plugged in. */
export class Visit implements LinkBrowser {
  constructor(private around: Around) {}

  async children({ address }: Place): Promise<Children> {
    const at = levelOf(address)
    if (at.level === 'all') return { nodes: this.around.ports().map(portNode), more: false }
    const offered = this.offered(at.port)
    if (at.level === 'room') return { nodes: offered.filter(({ room }) => room === at.room).map(pointNode), more: false }
    if (at.level === 'point') return { nodes: [], more: false }
    const own = (Object.keys(rooms) as Room[]).filter((room) => offered.some((point) => point.room === room))
    const nodes = own.map((room): BrowsedNode => ({
      address: `${at.port}:${room}`,
      member: '',
      name: rooms[room],
      kind: 'object',
      opens: true,
    }))
    return { nodes: [...nodes, ...offered.filter(({ room }) => room === 'port').map(pointNode)], more: false }
  }

  async details(places: readonly Place[]): Promise<PlaceDetails[]> {
    return Promise.all(places.map((place) => this.detailsOf(place)))
  }

  async *search(text: string, signal: AbortSignal): AsyncGenerator<SearchPart> {
    const words = text.toLowerCase()
    let looked = 0
    for (const port of this.around.ports()) {
      if (signal.aborted) return
      const offered = this.offered(port.number)
      looked += offered.length
      const found = offered
        .filter(({ name, address, about }) => [name, address, about].some((one) => one.toLowerCase().includes(words)))
        .map((point) => ({ ...pointNode(point), names: namesTo(port, point) }))
      yield { found, failed: [], looked, done: false }
    }
    yield { found: [], failed: [], looked, done: true }
  }

  async *branch({ address }: Place, signal: AbortSignal): AsyncGenerator<BranchPart> {
    const at = levelOf(address)
    const ports = at.level === 'all' ? this.around.ports() : [this.portAt(at.port)]
    const failed: BranchPart['failed'] = []
    let looked = 0
    for (const port of ports) {
      if (signal.aborted) return
      const { device } = port.seen ?? {}
      if (device && !port.description) failed.push({ names: [portName(port)], why: undescribed(port).what })
      const wanted = this.offered(port.number).filter(
        (point) => at.level === 'all' || at.level === 'port' || (at.level === 'room' ? point.room === at.room : point.address === address),
      )
      looked += wanted.length
      const points = await Promise.all(
        wanted.map(async (point) => ({
          names: namesTo(port, point).slice(at.level === 'all' ? 0 : at.level === 'port' ? 1 : 2),
          details: await this.detailsOf({ address: point.address, member: '' }),
        })),
      )
      yield { points, failed: [], looked, done: false }
    }
    yield { points: [], failed, looked, done: true }
  }

  meaning(error: Error): Fault | null {
    return error instanceof LookingFault ? error.why : null
  }

  private offered(number: number): OfferedPoint[] {
    const port = this.portAt(number)
    return port.seen?.device ? offeredAt(number, port.description, port.expected) : offeredAt(number, null, null)
  }

  private portAt(number: number): SensorPort {
    const port = this.around.port(number)
    if (!port) throw new LookingFault(fault('iolink.empty', { port: number, words: stateWords('NOT_AVAILABLE') }))
    return port
  }

  private async detailsOf(place: Place): Promise<PlaceDetails> {
    const at = levelOf(place.address)
    if (at.level !== 'point') return { ...nothing, ...place, ...this.groupDetails(at) }
    const port = this.portAt(at.port)
    const known = this.offered(at.port).find(({ address }) => address === place.address)
    if (!known) return { ...nothing, ...place }
    const { type, access, unit, scaling, range, options, about, names } = known
    const now = await this.valueAt(port, known)
    return {
      ...nothing,
      ...place,
      ...{ type, typeName: type, access, unit, range, names: [...names], options, description: about },
      ...(scaling ? { scaling } : {}),
      ...now,
    }
  }

  private async valueAt(port: SensorPort, { address: text, type, options }: OfferedPoint): Promise<Partial<PlaceDetails>> {
    const placed = pointOf({ address: text, type, options, access: 'read' })
    if (!placed) return {}
    const { address } = placed
    if (address.of === 'state' || address.of === 'events') {
      const said = address.of === 'state' ? (port.seen?.state ?? '') : port.events.text
      return { value: said, text: said, quality: quality.Good, sourceTime: port.seen?.at ?? 0 }
    }
    const image =
      address.of === 'parameter' ? await this.parameterOf(port, address.index, address.subindex) : await this.sideOf(port, address.of)
    const raw = image ? valueIn(placed, image.bytes) : undefined
    if (raw === undefined || !image) return {}
    return { value: toWire(raw), text: valueText(raw, type), quality: quality.Good, sourceTime: image.at }
  }

  private async parameterOf(port: SensorPort, index: number, subindex: number): Promise<Image | null> {
    const known = port.parameters.get(parameterKey({ index, subindex }))?.image
    if (known) return known
    const asked = await port.askFor((master, alias) => master.parameter(alias, index, subindex))
    return asked?.ok ? { bytes: asked.value, at: asked.at, ms: asked.ms } : null
  }

  private async sideOf(port: SensorPort, side: 'in' | 'out'): Promise<Image | null> {
    const known = side === 'in' ? port.input : port.output
    if (known) return known
    const asked = await port.askFor((master, alias) => master.processData(alias))
    const data = asked?.ok ? (side === 'in' ? asked.value.getData : asked.value.setData)?.ioLink : undefined
    return asked?.ok && data?.valid ? { bytes: Uint8Array.from(data.value), at: asked.at, ms: asked.ms } : null
  }

  private groupDetails(at: Exclude<Level, { level: 'point' }>): Partial<PlaceDetails> {
    if (at.level === 'all') return {}
    const port = this.portAt(at.port)
    const offered = this.offered(at.port)
    if (at.level === 'room') return { children: offered.filter(({ room }) => room === at.room).length }
    const { device, state } = port.seen ?? {}
    const said = device
      ? [
          deviceText(device),
          device.serialNumber && `serial number ${device.serialNumber}`,
          port.description ? '' : 'its description is not loaded',
        ]
      : [stateWords(state ?? '')]
    return { children: offered.length, description: said.filter(Boolean).join(', ') }
  }
}

type Level =
  { level: 'all' } | { level: 'port'; port: number } | { level: 'room'; port: number; room: Room } | { level: 'point'; port: number }

/** Throws a LookingFault where the address is none. */
const levelOf = (address: string): Level => {
  if (address === '') return { level: 'all' }
  if (/^\d+$/.test(address)) return { level: 'port', port: Number(address) }
  const room = /^(\d+):(in|out|parameters)$/.exec(address)
  if (room) return { level: 'room', port: Number(room[1]), room: room[2] as Room }
  const parsed = parseAddress(address)
  if (!parsed.ok) throw new LookingFault(fault('entry.unreadable', { problem: parsed.problem }))
  return { level: 'point', port: parsed.address.port }
}

const portName = (port: SensorPort): string => {
  const { device } = port.seen ?? {}
  const name = port.description?.named || (device ? deviceText(device) : '')
  return name === '' ? `Port ${port.number}` : `Port ${port.number} ${name}`
}

const portNode = (port: SensorPort): BrowsedNode => ({
  ...{ address: String(port.number), member: '', name: portName(port), kind: 'object', opens: true },
})

const pointNode = ({ address, name }: OfferedPoint): BrowsedNode => ({ address, member: '', name, kind: 'variable', opens: false })

const namesTo = (port: SensorPort, { room, name }: OfferedPoint): string[] =>
  room === 'port' ? [portName(port), name] : [portName(port), rooms[room], name]

const undescribed = (port: SensorPort): Fault =>
  fault('iolink.undescribed', { port: port.number, device: port.seen?.device ? deviceText(port.seen.device) : '' })

const nothing: PlaceDetails = {
  ...{ address: '', member: '', type: null, typeName: '', access: 'none', unit: '', range: null, description: '' },
  ...{ value: null, text: '', hasParts: false, quality: quality.BadNoData, sourceTime: 0, samplesEvery: null },
  ...{ children: null, childrenMore: false },
}
