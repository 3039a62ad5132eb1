import { z } from 'zod'
import { textOf, type Carried } from '#core/messages/carried'
import { parcelText, readParcel, type Parcel, type Shaped } from '#core/bridges/parcel'
import type { Fault } from '#core/faults/catalogue'
import { faultContract } from '#shared/faults'
import type { RefusedRecord, RefusedValue } from '#shared/bridges/preview'

/** A record that a receiver refused, as it lies aside. */
export interface Refused {
  key: string
  at: number
  fault: Fault
  parcel: Parcel
}

const kept = z.object({ at: z.number(), fault: faultContract, parcel: z.string() })

export const asideText = (fields: readonly string[], { to, values, at, run }: Shaped, why: Fault) =>
  JSON.stringify({ at: Date.now(), fault: why, parcel: parcelText({ fields, records: [{ to, values, at, run }] }) })

/** Null: the disk garbled it. */
export const readRefused = (key: string, text: string): Refused | null => {
  try {
    const { at, fault, parcel: inner } = kept.parse(JSON.parse(text))
    const parcel = readParcel(inner)
    return parcel && { key, at, fault, parcel }
  } catch {
    return null
  }
}

export const refusedRecordOf = (destination: number, { key, at, fault, parcel }: Refused): RefusedRecord => {
  const [record] = parcel.records
  const fields = parcel.fields.map((into, i) => ({ into, text: textOf(record?.values[i] ?? null) }))
  return { key, destination, at, madeAt: record?.at ?? at, fields, fault }
}

/** With some values as somebody typed them; they are brought into the types of the receiver as all others are. */
export const mended = ({ fields, records }: Parcel, values: readonly RefusedValue[]): Parcel => {
  const typed = new Map(values.map(({ into, text }) => [into, text]))
  const value = (field: string, before: Carried) => (typed.has(field) ? typed.get(field)! : before)
  return { fields, records: records.map((record) => ({ ...record, values: record.values.map((one, i) => value(fields[i] ?? '', one)) })) }
}
