import { readDescription } from '#core/iolink/description/read'
import type { DataRecord, DeviceDescription, Item } from '#core/iolink/description/description'
import { bytesOf, itemReader, putItem, type Raw } from '#core/iolink/image'

/** A simulated sensor: what its description says it is, values by their names, parameters by their index. */
export class Sensor {
  readonly description: DeviceDescription
  readonly values = new Map<string, Raw>()
  readonly parameters = new Map<number, Uint8Array>()
  /** What it was told last. */
  output: Uint8Array
  isValid = true

  /** @param text of its description @param serialNumber of this one */
  constructor(
    text: string,
    readonly serialNumber: string,
  ) {
    const read = readDescription(text)
    if (!read.ok) throw new Error(`line ${read.line}: ${read.problem}`)
    this.description = read.description
    const { vendorName, named, variants, parameters, processData } = this.description
    const out = processData[0]?.out
    this.output = new Uint8Array(out ? bytesOf(out) : 0)
    for (const { index, record } of parameters) this.parameters.set(index, new Uint8Array(Math.max(1, bytesOf(record))))
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

  /** A value that it was told. */
  told(name: string): Raw {
    const record = this.description.processData[0]!.out!
    return itemReader(
      record.items.find((one) => one.name === name)!,
      bytesOf(record),
    )(this.output)
  }

  /** A part of a parameter, as few bytes as hold it; null: it has no such part. */
  part(index: number, subindex: number): Uint8Array | null {
    const found = this.partOf(index, subindex)
    if (!found) return null
    const { item, record } = found
    const image = new Uint8Array(bytesOf({ bits: item.type.bits }))
    putItem({ bitOffset: 0, type: item.type }, itemReader(item, bytesOf(record))(this.parameters.get(index)!), image)
    return image
  }

  setPart(index: number, subindex: number, bytes: Uint8Array) {
    const { item } = this.partOf(index, subindex)!
    putItem(item, itemReader({ bitOffset: 0, type: item.type }, bytes.length)(bytes), this.parameters.get(index)!)
  }

  private partOf(index: number, subindex: number): { item: Item; record: DataRecord } | null {
    const record = this.description.parameters.find((one) => one.index === index)?.record
    const item = record?.items.find((one) => one.subindex === subindex)
    return record && item ? { item, record } : null
  }
}
