import { fault, type Fault } from '#core/faults/catalogue'
import type { AppValue } from '#core/bacnet/appValue'
import { appText } from '#core/bacnet/conversion'
import { stationText } from '#core/bacnet/frames'
import { deviceType } from '#core/bacnet/names/objectTypes'
import type { ObjectId } from '#core/bacnet/objectId'
import type { ReadItem } from '#core/bacnet/planning'
import { prop } from '#core/bacnet/property'
import type { PropertyRef } from '#core/bacnet/services'
import { steadyNow } from '#pacing/clock'
import { LookingFault } from '../looking'
import { readOne } from './asking'
import type { Lane } from './lane'
import { Reader, type Reading } from './reader'

const mostObjects = 100_000
const whole = null
const foundWithinMs = 15_000

/** What a device has, asked of it as it is looked into. What is long it keeps for a while. */
export class Inventory {
  private reader: Reader
  private objects: { at: number; list: Promise<ObjectId[]> } | null = null
  private names = new Map<string, string>()

  constructor(
    readonly instance: number,
    readonly lane: Lane,
    most: number,
  ) {
    this.reader = new Reader(lane, { most, flags: false })
  }

  /** All of its objects but itself. Rejects with a LookingFault. */
  list(): Promise<ObjectId[]> {
    const { objects } = this
    if (objects && steadyNow() - objects.at < keptMs) return objects.list
    const list = this.readList()
    this.objects = { at: steadyNow(), list }
    list.catch(() => (this.objects = null))
    return list
  }

  /** The names of objects, as far as it tells them. */
  async namesOf(objects: readonly ObjectId[], signal?: AbortSignal): Promise<(string | null)[]> {
    const unknown = objects.filter((object) => !this.names.has(keyOf(object)))
    const values = await this.properties(
      unknown.map((object) => ({ object, property: prop.objectName, index: whole })),
      signal,
    )
    for (const [i, object] of unknown.entries()) {
      const text = textIn(values[i]!)
      if (text !== null) this.names.set(keyOf(object), text)
    }
    return objects.map((object) => this.names.get(keyOf(object)) ?? null)
  }

  /** The values of properties, in their order; null where there is none. Rejects where the device is not there. */
  async properties(refs: readonly PropertyRef[], signal?: AbortSignal): Promise<(AppValue[] | null)[]> {
    await this.there()
    const found = new Map<ReadItem, AppValue[]>()
    const items = refs.map((ref): ReadItem => ({ ref, type: 'string', seen: null }))
    let away: Fault | null = null
    for (const request of this.reader.plan(items)) {
      if (signal?.aborted) break
      await this.reader.read(request, (item, reading: Reading) => {
        if (reading.kind === 'value') found.set(item, reading.values)
        else if (reading.kind === 'away') away = reading.why
      })
      if (away) throw new LookingFault(away)
    }
    return items.map((item) => found.get(item) ?? null)
  }

  /** Waits until the device is found. Rejects with a LookingFault. */
  async there() {
    const end = steadyNow() + foundWithinMs
    while (!this.lane.located) {
      if (this.lane.fault) throw new LookingFault(this.lane.fault)
      if (steadyNow() > end)
        throw new LookingFault(fault('bacnet.not-found', { device: this.instance, ways: 'it is looked for', ms: foundWithinMs }))
      await new Promise((resolve) => setTimeout(resolve, 20))
    }
  }

  get place() {
    return this.lane.located ? stationText(this.lane.located.station) : ''
  }

  /** At once, or, where it is longer than the device can send, element by element. */
  private async readList(): Promise<ObjectId[]> {
    await this.there()
    const ref: PropertyRef = { object: { type: deviceType, instance: this.instance }, property: prop.objectList, index: whole }
    const { answer } = await readOne((service, content) => this.lane.read(service, content), ref)
    if (answer?.ok) return objectsIn(answer.values)
    const [count] = await this.properties([{ ...ref, index: 0 }])
    const first = count?.[0]
    if (first?.tag !== 'unsigned')
      throw new LookingFault(fault('bacnet.malformed', { place: this.place, problem: 'it does not tell its objects' }))
    const length = Math.min(mostObjects, Number(first.value))
    const elements = await this.properties(Array.from({ length }, (_, i) => ({ ...ref, index: i + 1 })))
    return objectsIn(elements.flatMap((values) => values ?? []))
  }
}

const keptMs = 30_000
const keyOf = ({ type, instance }: ObjectId) => `${type}/${instance}`

const objectsIn = (values: readonly AppValue[]): ObjectId[] =>
  values.flatMap((value) => (value.tag === 'object' && value.value.type !== deviceType ? [value.value] : []))

export const textIn = (values: readonly AppValue[] | null): string | null => {
  const [value] = values ?? []
  return value === undefined || value.tag === 'null' ? null : appText(value)
}
