import type { BACNetAddress, BACNetObjectID, BACNetPropertyID } from '@bacnet-js/client'
import { enumerated, objectOf, property, SimulatedObject, text, unsigned, type AppData, type ObjectOptions } from './objects'
import { BacnetClient } from './stack'
import { DeviceTransport } from './transport'

const deviceType = 8
const anyInstance = 0x3fffff
const wholeArray = 0xffffffff
const usualPriority = 16
const noSegmentation = 3
const [errorOfObject, errorOfProperty, errorOfServices] = [1, 2, 5]
const [unknownObject, unknownProperty, writeDenied, wrongType, outOfRange, badIndex] = [31, 32, 40, 9, 37, 42]
const subscriptionFailed = 43
const lookMs = 100

export interface DeviceOptions {
  instance: number
  name: string
  vendor: string
  model: string
  host?: string
  broadcast?: string
  room?: number
  /** Whether it answers several properties in one request. */
  takesMany?: boolean
  /** Places for subscriptions. */
  places?: number
  /** Whether it takes subscriptions with an increment of the subscriber. */
  takesIncrements?: boolean
}

export const bacnetFaultText = {
  silent: 'does not answer',
  slow: 'answers after 900 ms',
  swallowed: 'its notifications are swallowed on the way',
  full: 'has no place for another subscription',
  service: 'its first object is out of service',
} as const
export type BacnetFault = keyof typeof bacnetFaultText
export const isBacnetFault = (name: unknown): name is BacnetFault => typeof name === 'string' && name in bacnetFaultText

interface Subscriber {
  address: BACNetAddress
  process: number
  object: SimulatedObject
  property: number
  isConfirmed: boolean
  until: number
  increment: number | null
  /** What was notified last. */
  told: { value: AppData[]; flags: string } | null
}

interface Header {
  sender: BACNetAddress
}

/** A device of building services, as another maker’s stack speaks for it. */
export class BacnetDevice {
  readonly transport: DeviceTransport
  readonly faults = new Set<BacnetFault>()
  readonly objects: SimulatedObject[] = []
  requests = 0
  /** Requests that named several properties. */
  requestsForMany = 0
  subscribers: Subscriber[] = []
  private client: BacnetClient
  private byKey = new Map<string, SimulatedObject>()
  private timer: NodeJS.Timeout | null = null

  constructor(readonly options: DeviceOptions) {
    const { host = '127.0.0.1', broadcast = '', room = 1476 } = options
    this.transport = new DeviceTransport({ host, broadcast, room })
    this.transport.isLost = (datagram) => this.faults.has('swallowed') && isNotification(datagram)
    this.client = new BacnetClient({ transport: this.transport, apduTimeout: 1000 })
    this.client.on('whoIs', ({ header, payload }) => this.whoIs(header as Header, payload as { lowLimit?: number; highLimit?: number }))
    this.client.on('readProperty', (content) => this.read(content as never))
    this.client.on('readPropertyMultiple', (content) => this.readMany(content as never))
    this.client.on('writeProperty', (content) => this.write(content as never))
    this.client.on('subscribeCov', (content) => this.subscribe(content as never, null))
    if (options.takesIncrements ?? true)
      this.client.on('subscribeProperty', (content) =>
        this.subscribe(content as never, (content.payload as { covIncrement?: number }).covIncrement || null),
      )
  }

  add(options: ObjectOptions): SimulatedObject {
    const object = new SimulatedObject(options)
    this.objects.push(object)
    this.byKey.set(object.key, object)
    return object
  }

  get(type: number, instance: number): SimulatedObject {
    return this.byKey.get(`${type}/${instance}`)!
  }

  async listen(port: number): Promise<number> {
    const found = await this.transport.listen(port)
    this.timer = setInterval(() => this.look(), lookMs)
    return found
  }

  setFault(fault: BacnetFault, on: boolean) {
    if (on) this.faults.add(fault)
    else this.faults.delete(fault)
    this.transport.isSilent = this.faults.has('silent')
    this.transport.delayMs = this.faults.has('slow') ? 900 : 0
    const [first] = this.objects
    if (first) first.flags.outOfService = this.faults.has('service')
  }

  close() {
    if (this.timer) clearInterval(this.timer)
    this.client.close()
  }

  /** Tells whoever subscribed what has changed; others come to their end. */
  look() {
    const now = Date.now()
    this.subscribers = this.subscribers.filter(({ until }) => until > now)
    for (const subscriber of this.subscribers) if (isWorthTelling(subscriber)) this.tell(subscriber)
  }

  private whoIs({ sender }: Header, { lowLimit = 0, highLimit = anyInstance }: { lowLimit?: number; highLimit?: number }) {
    const { instance } = this.options
    if (instance >= lowLimit && instance <= highLimit) this.client.iAmResponse(sender, instance, noSegmentation, 0)
  }

  private read({
    header,
    invokeId,
    payload,
  }: {
    header: Header
    invokeId: number
    payload: { objectId: BACNetObjectID; property: BACNetPropertyID }
  }) {
    this.requests++
    const found = this.valuesOf(payload.objectId, payload.property)
    if (Array.isArray(found)) {
      const objectId = payload.objectId.type === deviceType ? { type: deviceType, instance: this.options.instance } : payload.objectId
      this.answer(header, invokeId, () => this.client.readPropertyResponse(header.sender, invokeId, objectId, payload.property, found))
    } else this.client.errorResponse(header.sender, 12, invokeId, found.class, found.code)
  }

  private readMany({
    header,
    invokeId,
    payload,
  }: {
    header: Header
    invokeId: number
    payload: { properties: { objectId: BACNetObjectID; properties: BACNetPropertyID[] }[] }
  }) {
    this.requests++
    if (this.options.takesMany === false) return this.raw(header, [0x60, invokeId, 9])
    this.requestsForMany++
    const values = payload.properties.map(({ objectId, properties }) => ({
      objectId,
      values: properties.map((one) => {
        const found = this.valuesOf(objectId, one)
        return {
          property: one,
          value: Array.isArray(found)
            ? found
            : [{ type: 0, value: { type: 'BacnetError', errorClass: found.class, errorCode: found.code } }],
        }
      }),
    }))
    this.answer(header, invokeId, () => this.client.readPropertyMultipleResponse(header.sender, invokeId, values))
  }

  /** An answer that is longer than a message is given up on: it sends no parts. */
  private answer(header: Header, invokeId: number, send: () => void) {
    try {
      send()
    } catch {
      this.raw(header, [0x71, invokeId, 4])
    }
  }

  private valuesOf({ type, instance }: BACNetObjectID, { id, index }: BACNetPropertyID): AppData[] | { class: number; code: number } {
    const isDevice = type === deviceType && (instance === this.options.instance || instance === anyInstance)
    const object = this.byKey.get(`${type}/${instance}`)
    if (!isDevice && !object) return { class: errorOfObject, code: unknownObject }
    const values = isDevice ? this.ofDevice(id) : object!.read(id)
    if (!values) return { class: errorOfProperty, code: unknownProperty }
    if (index === wholeArray || index === undefined) return values
    if (index === 0) return [unsigned(values.length)]
    return values[index - 1] ? [values[index - 1]!] : { class: errorOfProperty, code: badIndex }
  }

  private ofDevice(id: number): AppData[] | undefined {
    const { instance, name, vendor, model, room = 1476 } = this.options
    const known: Record<number, () => AppData[]> = {
      [property.objectIdentifier]: () => [objectOf(deviceType, instance)],
      [property.objectName]: () => [text(name)],
      [property.vendorName]: () => [text(vendor)],
      [property.modelName]: () => [text(model)],
      [property.systemStatus]: () => [enumerated(0)],
      [property.maxApdu]: () => [unsigned(room)],
      [property.segmentation]: () => [enumerated(noSegmentation)],
      [property.objectList]: () => [
        objectOf(deviceType, instance),
        ...this.objects.map(({ options }) => objectOf(options.type, options.instance)),
      ],
    }
    return known[id]?.()
  }

  private write({
    header,
    invokeId,
    payload: { objectId, value },
  }: {
    header: Header
    invokeId: number
    payload: { objectId: BACNetObjectID; value: { property: BACNetPropertyID; value: AppData[]; priority?: number } }
  }) {
    this.requests++
    const refuse = (group: number, code: number) => this.client.errorResponse(header.sender, 15, invokeId, group, code)
    const object = this.byKey.get(`${objectId.type}/${objectId.instance}`)
    if (!object) return refuse(errorOfObject, unknownObject)
    if (value.property.id !== property.presentValue || !object.isCommanded) return refuse(errorOfProperty, writeDenied)
    const [given] = value.value
    const isNull = !given || given.type === 0
    if (!isNull && given.type !== object.options.usual!.type) return refuse(errorOfProperty, wrongType)
    const { range } = object.options
    if (!isNull && range && (Number(given.value) < range.low || Number(given.value) > range.high))
      return refuse(errorOfProperty, outOfRange)
    const priority = value.priority !== undefined && value.priority >= 1 && value.priority <= 16 ? value.priority : usualPriority
    object.command(isNull ? null : ({ type: given.type, value: given.value } as AppData), priority)
    this.client.simpleAckResponse(header.sender, 15, invokeId)
    this.look()
  }

  private subscribe(
    {
      header,
      invokeId,
      service,
      payload,
    }: {
      header: Header
      invokeId: number
      service: number
      payload: {
        subscriberProcessId: number
        monitoredObjectId: BACNetObjectID
        cancellationRequest?: boolean
        /** Left out: as the object tells its changes. */
        monitoredProperty?: { id: number }
        issueConfirmedNotifications: boolean
        lifetime: number
      }
    },
    increment: number | null,
  ) {
    this.requests++
    const { type, instance } = payload.monitoredObjectId
    const object = this.byKey.get(`${type}/${instance}`)
    if (!object) return this.client.errorResponse(header.sender, service, invokeId, errorOfObject, unknownObject)
    const watched = payload.monitoredProperty?.id ?? property.presentValue
    if (!object.read(watched)) return this.client.errorResponse(header.sender, service, invokeId, errorOfProperty, unknownProperty)
    const isSame = (one: Subscriber) =>
      one.object === object &&
      one.property === watched &&
      one.process === payload.subscriberProcessId &&
      one.address.address === header.sender.address
    const others = this.subscribers.filter((one) => !isSame(one))
    if (payload.cancellationRequest) {
      this.subscribers = others
      return this.client.simpleAckResponse(header.sender, service, invokeId)
    }
    const isKnown = others.length < this.subscribers.length
    if (!isKnown && (this.faults.has('full') || others.length >= (this.options.places ?? 200)))
      return this.client.errorResponse(header.sender, service, invokeId, errorOfServices, subscriptionFailed)
    const subscriber: Subscriber = {
      ...{
        address: header.sender,
        process: payload.subscriberProcessId,
        object,
        property: watched,
        isConfirmed: payload.issueConfirmedNotifications,
      },
      ...{ until: payload.lifetime === 0 ? Infinity : Date.now() + payload.lifetime * 1000, increment, told: null },
    }
    this.subscribers = [...others, subscriber]
    this.client.simpleAckResponse(header.sender, service, invokeId)
    this.tell(subscriber)
  }

  private tell(subscriber: Subscriber) {
    const { address, process, object, property: watched, isConfirmed, until } = subscriber
    const remaining = until === Infinity ? 0 : Math.max(0, Math.round((until - Date.now()) / 1000))
    subscriber.told = { value: object.read(watched)!, flags: JSON.stringify(object.flags) }
    const values = [watched, property.statusFlags].map((id) => ({
      property: { id, index: wholeArray - 1 },
      value: object.read(id)!,
    }))
    const { type, instance } = object.options
    const named = values.map(({ property: { id }, value }) => ({ property: { id }, value })) as never
    if (isConfirmed)
      this.client.confirmedCOVNotification(address, { type, instance }, process, this.options.instance, remaining, named).catch(() => {})
    else this.client.unconfirmedCOVNotification(address, process, this.options.instance, { type, instance }, remaining, named)
  }

  /** A message that the package has no words for. */
  private raw({ sender }: Header, apdu: number[]) {
    const npdu = [1, 0, ...apdu]
    const datagram = Buffer.from([0x81, 0x0a, 0, 4 + npdu.length, ...npdu])
    this.transport.send(datagram, datagram.length, sender.address)
  }
}

const isNotification = (datagram: Buffer) => {
  const apdu = datagram.subarray(6)
  return (apdu[0] === 0x10 && apdu[1] === 2) || ((apdu[0]! & 0xf0) === 0 && apdu[3] === 1)
}

/** A real number that moved by its increment, anything else that is another. */
const isWorthTelling = ({ object, property: watched, told, increment }: Subscriber): boolean => {
  if (!told) return true
  if (told.flags !== JSON.stringify(object.flags)) return true
  const [before, now] = [told.value, object.read(watched)!].map(([value]) => Number(value!.value)) as [number, number]
  const least = increment ?? object.options.increment ?? 0
  return least > 0 ? Math.abs(now - before) >= least : now !== before
}
