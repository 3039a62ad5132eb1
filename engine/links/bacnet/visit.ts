import { fault, type Fault } from '#core/faults/catalogue'
import { formatAddress, objectText, parseAddress, shortText, type BacnetAddress } from '#core/bacnet/address'
import { deviceType, objectType, objectTypeName, objectTypeNamed } from '#core/bacnet/names/objectTypes'
import { propertyName } from '#core/bacnet/names/properties'
import type { ObjectId } from '#core/bacnet/objectId'
import { prop } from '#core/bacnet/property'
import type { PropertyRef } from '#core/bacnet/services'
import { grouped } from '#core/lists/grouped'
import { parted } from '#core/lists/parted'
import type { BranchPart, BrowsedNode, Children, Place, PlaceDetails, SearchPart } from '#shared/browse'
import type { LinkBrowser } from '../driver'
import { LookingFault } from '../looking'
import type { Located } from './directory'
import { asked, detailsOf, nothing, refsFor } from './details'
import { textIn, type Inventory } from './inventory'

interface Around {
  everybody(): Promise<Located[]>
  inventory(instance: number): Inventory
  /** The names of devices, once they are known. */
  remember(instance: number, name: string): void
}

const mostShown = 20_000
const perPart = 100
const propertyList = 371

/** Devices as places, in them the kinds of their objects, in these the objects, and in an object its properties. */
export class Visit implements LinkBrowser {
  constructor(private around: Around) {}

  async children({ address }: Place): Promise<Children> {
    const at = placeOf(address)
    switch (at.level) {
      case 'all':
        return this.devices()
      case 'device':
        return this.kinds(at.device)
      case 'kind':
        return this.objects(at.device, at.type)
      case 'object':
        return this.properties(at.address)
    }
  }

  async details(places: readonly Place[]): Promise<PlaceDetails[]> {
    const found = new Map<Place, PlaceDetails>()
    const byDevice = grouped(places, ({ address }) => deviceOf(address))
    for (const [device, ofDevice] of byDevice) {
      const parts = device === null ? [] : parted(ofDevice, perPart)
      for (const part of parts) for (const [place, details] of await this.detailsOn(device!, part)) found.set(place, details)
    }
    return places.map((place) => found.get(place) ?? { ...nothing, ...place })
  }

  async *search(text: string, signal: AbortSignal): AsyncGenerator<SearchPart> {
    const words = text.toLowerCase()
    let looked = 0
    const failed: SearchPart['failed'] = []
    for (const { instance } of await this.around.everybody()) {
      if (signal.aborted) return
      const inventory = this.around.inventory(instance)
      try {
        const name = await this.nameOf(inventory)
        for (const part of parted(await inventory.list(), perPart)) {
          if (signal.aborted) return
          const names = await inventory.namesOf(part, signal)
          looked += part.length
          const found = part.flatMap((object, i) => {
            const address = { device: instance, object, property: prop.presentValue, index: null }
            const own = names[i] ?? shortText(address)
            if (![own, shortText(address), objectText(object)].some((one) => one.toLowerCase().includes(words))) return []
            return [{ ...nodeOf(address, own), names: [name, kindTitle(object.type), own] }]
          })
          yield { found, failed: [], looked, done: false }
        }
      } catch (error) {
        failed.push({ names: [`Device ${instance}`], why: whyOf(error) })
      }
    }
    yield { found: [], failed, looked, done: true }
  }

  async *branch({ address }: Place, signal: AbortSignal): AsyncGenerator<BranchPart> {
    const at = placeOf(address)
    const devices = at.level === 'all' ? (await this.around.everybody()).map(({ instance }) => instance) : [at.device]
    let looked = 0
    const failed: BranchPart['failed'] = []
    for (const device of devices) {
      const inventory = this.around.inventory(device)
      try {
        const head = at.level === 'all' ? [await this.nameOf(inventory)] : []
        for (const part of parted(await this.objectsAt(inventory, at), perPart)) {
          if (signal.aborted) return
          const names = await inventory.namesOf(part, signal)
          const places = part.map((object): Place => ({ address: formatAddress(valueOf(device, object)), member: '' }))
          const details = await this.detailsOn(device, places)
          looked += part.length
          const points = part.flatMap((object, i) => {
            const own = names[i] ?? shortText(valueOf(device, object))
            const kind = at.level === 'all' || at.level === 'device' ? [kindTitle(object.type)] : []
            const known = details.get(places[i]!)
            return known?.type ? [{ names: at.level === 'object' ? [] : [...head, ...kind, own], details: known }] : []
          })
          yield { points, failed: [], looked, done: false }
        }
      } catch (error) {
        failed.push({ names: [`Device ${device}`], why: whyOf(error) })
      }
    }
    yield { points: [], failed, looked, done: true }
  }

  meaning(error: Error): Fault | null {
    return error instanceof LookingFault ? error.why : null
  }

  private async objectsAt(inventory: Inventory, at: Level): Promise<ObjectId[]> {
    if (at.level === 'object') return [at.address.object]
    const all = await inventory.list()
    return all.filter(({ type }) => objectType(type)?.value !== undefined && (at.level !== 'kind' || type === at.type))
  }

  private async devices(): Promise<Children> {
    const located = await this.around.everybody()
    const nodes = await Promise.all(
      located.map(async ({ instance }): Promise<BrowsedNode> => {
        const name = await this.nameOf(this.around.inventory(instance)).catch(() => '')
        return { address: String(instance), member: '', name: name || `Device ${instance}`, kind: 'object', opens: true }
      }),
    )
    return { nodes, more: false }
  }

  private async nameOf(inventory: Inventory): Promise<string> {
    const [name] = await inventory.namesOf([{ type: deviceType, instance: inventory.instance }])
    if (name) this.around.remember(inventory.instance, name)
    return name ?? `Device ${inventory.instance}`
  }

  private async kinds(device: number): Promise<Children> {
    const inventory = this.around.inventory(device)
    await this.nameOf(inventory)
    const kinds = [...grouped(await inventory.list(), ({ type }) => type)].sort(([a], [b]) => a - b)
    const itself: BrowsedNode = {
      ...{ address: `${device}:device/${device}.object-name`, member: '', name: 'Device itself', kind: 'object', opens: true },
    }
    const nodes = kinds.map(([type]): BrowsedNode => ({
      ...{ address: `${device}:${objectTypeName(type)}`, member: '', name: kindTitle(type), kind: 'object', opens: true },
    }))
    return { nodes: [...nodes, itself], more: false }
  }

  private async objects(device: number, type: number): Promise<Children> {
    const inventory = this.around.inventory(device)
    const all = (await inventory.list()).filter((object) => object.type === type)
    const shown = all.slice(0, mostShown)
    const names = await inventory.namesOf(shown)
    return {
      nodes: shown.map((object, i) => nodeOf(valueOf(device, object), names[i] ?? shortText(valueOf(device, object)))),
      more: all.length > shown.length,
    }
  }

  /** Those that it says it has, where it does (12, Property_List); else those that all objects of the kind may have. */
  private async properties({ device, object }: BacnetAddress): Promise<Children> {
    const inventory = this.around.inventory(device)
    const ref = (property: number): PropertyRef => ({ object, property, index: null })
    const [told] = await inventory.properties([ref(propertyList)])
    const numbers = told?.flatMap((value) => (value.tag === 'enumerated' ? [value.value] : [])) ?? [...asked, prop.outOfService, prop.reliability, prop.covIncrement] // prettier-ignore
    const all = [prop.objectName, ...numbers.filter((number) => number !== prop.objectName && number !== prop.objectList)]
    const values = await inventory.properties(all.map(ref))
    const nodes = all.flatMap((property, i): BrowsedNode[] =>
      values[i] && property !== prop.presentValue
        ? [
            {
              ...{ address: formatAddress({ device, object, property, index: null }), member: '', name: propertyName(property) },
              ...{ kind: 'variable', opens: false },
            },
          ]
        : [],
    )
    return { nodes, more: false }
  }

  private async detailsOn(device: number, places: readonly Place[]): Promise<Map<Place, PlaceDetails>> {
    const inventory = this.around.inventory(device)
    const found = new Map<Place, PlaceDetails>()
    const points: { place: Place; address: BacnetAddress }[] = []
    for (const place of places) {
      const at = placeOf(place.address)
      if (at.level === 'object') points.push({ place, address: at.address })
      else found.set(place, { ...nothing, ...place, ...(await this.groupDetails(inventory, at)) })
    }
    const refs = points.flatMap(({ address }) => refsFor(address))
    const values = await inventory.properties(refs)
    let from = 0
    for (const { place, address } of points) {
      const count = refsFor(address).length
      found.set(place, detailsOf(place, address, values.slice(from, from + count)))
      from += count
    }
    return found
  }

  private async groupDetails(inventory: Inventory, at: Level): Promise<Partial<PlaceDetails>> {
    if (at.level === 'all') return {}
    const objects = await inventory.list().catch(() => null)
    if (at.level === 'kind') return { children: objects?.filter(({ type }) => type === at.type).length ?? null }
    const ofDevice = (property: number) => ({ object: { type: deviceType, instance: inventory.instance }, property, index: null })
    const [vendor, model] = await inventory.properties([ofDevice(prop.vendorName), ofDevice(prop.modelName)]).catch(() => [null, null])
    const made = [textIn(vendor ?? null), textIn(model ?? null)].filter((text) => text !== null && text !== '')
    return {
      children: objects?.length ?? null,
      description: [`device ${inventory.instance} at ${inventory.place}`, ...made].join(', '),
    }
  }
}

type Level =
  | { level: 'all' }
  | { level: 'device'; device: number }
  | { level: 'kind'; device: number; type: number }
  | { level: 'object'; device: number; address: BacnetAddress }

/** Throws a LookingFault where the address is none. */
const placeOf = (address: string): Level => {
  if (address === '') return { level: 'all' }
  if (/^\d+$/.test(address)) return { level: 'device', device: Number(address) }
  const kind = /^(\d+):([a-z-]+|\d+)$/i.exec(address)
  if (kind) {
    const type = /^\d+$/.test(kind[2]!) ? Number(kind[2]) : (objectTypeNamed(kind[2]!)?.number ?? null)
    if (type !== null) return { level: 'kind', device: Number(kind[1]), type }
  }
  const parsed = parseAddress(address)
  if (!parsed.ok) throw new LookingFault(fault('entry.unreadable', { problem: parsed.problem }))
  return { level: 'object', device: parsed.address.device, address: parsed.address }
}

const deviceOf = (address: string): number | null => {
  const at = placeOf(address)
  return at.level === 'all' ? null : at.device
}

const kindTitle = (type: number) => objectType(type)?.title ?? `Objects of kind ${type}`

const valueOf = (device: number, object: ObjectId): BacnetAddress => ({ device, object, property: prop.presentValue, index: null })

/** Objects without a present value are places only. */
const nodeOf = (address: BacnetAddress, name: string): BrowsedNode => {
  const type = objectType(address.object.type)
  const hasValue = !type || type.value !== undefined
  return {
    ...{ address: formatAddress(hasValue ? address : { ...address, property: prop.objectName }), member: '', name },
    ...{ kind: hasValue ? 'variable' : 'object', opens: true },
  }
}

const whyOf = (error: unknown) => (error instanceof LookingFault ? error.why.what : (error as Error).message)
