/**
 * What a device description says (IO Device Description, version 1.1), in one language: who the device is, how its process
 * data lie, which parameters it has, and what its events mean.
 */
export interface DeviceDescription {
  vendorId: number
  deviceId: number
  vendorName: string
  vendorText: string
  named: string
  deviceFamily: string
  /** Of the document. */
  version: string
  releaseDate: string
  variants: { productId: string; name: string; about: string }[]
  /** One, or several of which a parameter decides. */
  processData: ProcessData[]
  parameters: Parameter[]
  events: { code: number; type: string; name: string; about: string }[]
  /** The language it is told in, and all that the document has. */
  language: string
  languages: string[]
}

export interface ProcessData {
  id: string
  /** The parameter that decides, and the value with which this one holds; null: it always does. */
  condition: { variable: string; subindex: number | null; value: string } | null
  in: DataRecord | null
  out: DataRecord | null
}

/** Data that travel as a whole. */
export interface DataRecord {
  name: string
  bits: number
  items: Item[]
}

/** One value within a record. */
export interface Item {
  /** As paths have it. */
  name: string
  about: string
  subindex: number
  /** From the last bit of the record on (IO Device Description, 7.6). */
  bitOffset: number
  type: SimpleType
  scale: Scale
}

/** How a raw value becomes one that means something: raw · gradient + offset, in a unit. */
export interface Scale {
  gradient: number
  offset: number
  unit: string
  /** Digits after the point, where it says so. */
  digits: number | null
}

export interface SimpleType {
  kind: 'bool' | 'uint' | 'int' | 'float' | 'text' | 'octets' | 'time' | 'span'
  bits: number
  /** Values that have a name. */
  names: { value: number; name: string }[]
  range: { low: number; high: number } | null
}

export interface Parameter {
  id: string
  index: number
  name: string
  about: string
  access: 'ro' | 'rw' | 'wo'
  /** Whether its parts can be asked for by themselves. */
  subindexAccess: boolean
  /** Its parts; one alone, of subindex 0, where it has none. */
  record: DataRecord
}

/** A description is refused whole: a half-understood one would show wrong values. */
export type ReadDescription = { ok: true; description: DeviceDescription } | { ok: false; line: number; problem: string }
