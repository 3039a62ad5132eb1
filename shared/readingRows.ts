import type { Protocol } from '#core/links/protocol'
import { formText, type Reading } from '#core/readings/readings'
import type { ReadingRow } from './values'

/** A reading as pages and programs get it. @param takes what a tag is to be so that it reads in a form. */
export const readingRowOf = (reading: Reading, takes: NonNullable<Protocol['words']>['takes'], inUse: boolean): ReadingRow => ({
  label: formText(reading.form),
  takes: takes(reading.form),
  ...{ text: reading.text, value: reading.value, reasons: reading.reasons },
  ...{ plausible: isPlausible(reading), inUse },
})

/** Something speaks for it, and nothing against it; single registers speak for themselves. */
const isPlausible = ({ form, reasons }: Reading) =>
  reasons.every(({ speaks }) => speaks === 'for') && (reasons.length > 0 || form.kind === 'uint16' || form.kind === 'int16')
