import { readDescription } from '#core/iolink/description/read'
import type { DeviceDescription, Item } from '#core/iolink/description/description'
import { bytesOf, putItem, type Raw } from '#core/iolink/image'

/** A simulated sensor: what its description says it is, values by their names, parameters by their index. */
export class Sensor {
  readonly description: DeviceDescription
  readonly values = new Map<string, Raw>()
  readonly parameters = new Map<number, Uint8Array>()
  readonly events: { code: number; mode: string; text: string; at: Date }[] = []
  isValid = true

  /** @param text of its description @param serialNumber of this one */
  constructor(
    text: string,
    readonly serialNumber: string,
  ) {
    const read = readDescription(text)
    if (!read.ok) throw new Error(`line ${read.line}: ${read.problem}`)
    this.description = read.description
    const { vendorName, named, variants } = this.description
    for (const [index, said] of [
      [16, vendorName],
      [18, variants[0]?.name ?? named],
      [21, serialNumber],
      [24, '***'],
    ] as const)
      this.parameters.set(index, new TextEncoder().encode(said))
    this.parameters.set(36, Uint8Array.of(0))
  }

  get items(): Item[] {
    return this.description.processData[0]?.in?.items ?? []
  }

  get image(): Uint8Array {
    const record = this.description.processData[0]?.in
    const image = new Uint8Array(record ? bytesOf(record) : 0)
    for (const item of this.items) {
      const value = this.values.get(item.name)
      if (value !== undefined) putItem(item, value, image)
    }
    return image
  }

  /** In the unit that it measures in. */
  measure(name: string, value: number) {
    const item = this.items.find((one) => one.name === name)!
    this.values.set(name, Math.round((value - item.scale.offset) / item.scale.gradient))
  }
}
