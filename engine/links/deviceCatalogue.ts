import { nextTurn } from '#pacing/turns'
import type { DeviceDescription } from '#core/iolink/description/description'
import { readDescription } from '#core/iolink/description/read'
import { fault } from '#core/faults/catalogue'
import type { ThingOf } from '#db/subjects'
import type { ForceBook } from '../configuration/force'

/** The descriptions of devices that are in force, by vendor and device. */
export class DeviceCatalogue {
  private byDevice = new Map<string, DeviceDescription>()
  private keyById = new Map<number, string>()

  constructor(private force: Pick<ForceBook, 'attempt'>) {}

  of(vendorId: number, deviceId: number): DeviceDescription | null {
    return this.byDevice.get(keyOf(vendorId, deviceId)) ?? null
  }

  /** One that cannot be read stops no other; what was known of its device stays. */
  async set(all: readonly ThingOf['deviceDescription'][]) {
    for (const thing of all) {
      this.force.attempt('deviceDescription', thing, () => this.take(thing))
      await nextTurn()
    }
  }

  removed(ids: readonly number[]) {
    for (const id of ids) this.forget(id)
  }

  private take({ id, name, language, document }: ThingOf['deviceDescription']) {
    const read = readDescription(document, language)
    if (!read.ok) throw fault('iolink.description', { file: name, line: read.line, problem: read.problem }) as unknown as Error
    this.forget(id)
    const key = keyOf(read.description.vendorId, read.description.deviceId)
    this.byDevice.set(key, read.description)
    this.keyById.set(id, key)
  }

  private forget(id: number) {
    const key = this.keyById.get(id)
    if (key !== undefined) this.byDevice.delete(key)
    this.keyById.delete(id)
  }
}

const keyOf = (vendorId: number, deviceId: number) => `${vendorId}/${deviceId}`
