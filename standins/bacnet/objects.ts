import type { BACNetAppData } from '@bacnet-js/client'
import { ApplicationTag } from './stack'

export type AppData = BACNetAppData

export const real = (value: number): AppData => ({ type: ApplicationTag.REAL, value })
export const unsigned = (value: number): AppData => ({ type: ApplicationTag.UNSIGNED_INTEGER, value })
export const enumerated = (value: number): AppData => ({ type: ApplicationTag.ENUMERATED, value })
export const text = (value: string): AppData => ({ type: ApplicationTag.CHARACTER_STRING, value })
export const yesNo = (value: boolean): AppData => ({ type: ApplicationTag.BOOLEAN, value })
export const none = (): AppData => ({ type: ApplicationTag.NULL, value: null }) as AppData
export const objectOf = (type: number, instance: number): AppData => ({ type: ApplicationTag.OBJECTIDENTIFIER, value: { type, instance } })
/** Bits from the first on, as the package wants them. */
export const bits = (on: readonly boolean[]): AppData => ({
  type: ApplicationTag.BIT_STRING,
  value: { bitsUsed: on.length, value: [on.reduce((byte, isOn, i) => byte | (isOn ? 1 << i : 0), 0)] },
})

/** Properties that are used here, by the numbers of the standard. */
export const property = {
  activeText: 4,
  covIncrement: 22,
  description: 28,
  inactiveText: 46,
  maxPresValue: 65,
  minPresValue: 69,
  modelName: 70,
  numberOfStates: 74,
  objectIdentifier: 75,
  objectList: 76,
  objectName: 77,
  outOfService: 81,
  presentValue: 85,
  priorityArray: 87,
  relinquishDefault: 104,
  segmentation: 107,
  stateText: 110,
  statusFlags: 111,
  systemStatus: 112,
  units: 117,
  vendorName: 121,
  maxApdu: 62,
} as const

const levels = 16

export interface ObjectOptions {
  type: number
  instance: number
  name: string
  description?: string
  /** What it is at first, on the wire. */
  value: AppData
  units?: number
  /** What it is when nobody holds it; then it goes by priorities. */
  usual?: AppData
  increment?: number
  range?: { low: number; high: number }
  states?: readonly string[]
  texts?: { off: string; on: string }
}

/** An object of a simulated device: its value, who holds it, and what it tells of itself. */
export class SimulatedObject {
  readonly key: string
  flags = { inAlarm: false, fault: false, overridden: false, outOfService: false }
  private own: AppData
  private held: (AppData | null)[] | null

  constructor(readonly options: ObjectOptions) {
    this.key = `${options.type}/${options.instance}`
    this.own = options.value
    this.held = options.usual ? Array<AppData | null>(levels).fill(null) : null
  }

  get value(): AppData {
    if (!this.held) return this.own
    return this.held.find((level) => level !== null) ?? this.options.usual!
  }

  get number(): number {
    return Number(this.value.value)
  }

  /** What the process makes of it. */
  set(value: AppData) {
    this.own = value
  }

  /** Null gives back. Whether it takes that at all. */
  command(value: AppData | null, priority: number): boolean {
    if (!this.held) return false
    this.held[priority - 1] = value
    return true
  }

  get isCommanded() {
    return this.held !== null
  }

  /** Undefined: it has no such property. */
  read(id: number): AppData[] | undefined {
    const { name, description, units, usual, increment, range, states, texts, type, instance } = this.options
    const { inAlarm, fault, overridden, outOfService } = this.flags
    const known: Record<number, AppData[] | undefined> = {
      [property.objectIdentifier]: [objectOf(type, instance)],
      [property.objectName]: [text(name)],
      [property.description]: description === undefined ? undefined : [text(description)],
      [property.presentValue]: [this.value],
      [property.statusFlags]: [bits([inAlarm, fault, overridden, outOfService])],
      [property.outOfService]: [yesNo(outOfService)],
      [property.units]: units === undefined ? undefined : [enumerated(units)],
      [property.priorityArray]: this.held?.map((level) => level ?? none()),
      [property.relinquishDefault]: usual && [usual],
      [property.covIncrement]: increment === undefined ? undefined : [real(increment)],
      [property.minPresValue]: range && [real(range.low)],
      [property.maxPresValue]: range && [real(range.high)],
      [property.stateText]: states?.map(text),
      [property.numberOfStates]: states && [unsigned(states.length)],
      [property.inactiveText]: texts && [text(texts.off)],
      [property.activeText]: texts && [text(texts.on)],
    }
    return known[id]
  }
}
