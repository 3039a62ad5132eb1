import { z } from 'zod'
import { lineField, nameField, wholeNumber } from '../../contracts/fields'
import type { DeviceDescription } from './description'

/** The longest document that is taken, characters: whole families of devices take less. */
export const mostDocument = 6_000_000

/** A device description as the catalogue keeps it: the document of its maker, and what of it is looked for. */
export const cataloguedDescription = z.object({
  name: nameField('device description'),
  vendorId: wholeNumber('A vendor id', 0, 65_535),
  deviceId: wholeNumber('A device id', 0, 0xffffff),
  vendorName: lineField('A name', 200).default(''),
  version: lineField('A version', 40).default(''),
  released: lineField('A date', 40).default(''),
  language: lineField('A language', 20).default('en').describe('In which its texts are told.'),
  languages: z.array(z.string().max(20)).max(60).default([]).describe('Those that the document has.'),
  document: z.string().min(1).max(mostDocument).describe('As its maker gives it out (IODD, XML).'),
})
export type CataloguedDescription = z.output<typeof cataloguedDescription>

/** The ids stay in it, whatever the device is called: they tell it apart. */
const mostName = 80

/** What the catalogue keeps of a document that was read. */
export const cataloguedFrom = (description: DeviceDescription, document: string): CataloguedDescription => {
  const { vendorId, deviceId, vendorName, named, variants, version, releaseDate, language, languages } = description
  const ids = `${vendorId}/${deviceId}`
  const called = fitted(named || variants[0]?.name || 'Device', mostName - ids.length - 1)
  return {
    ...{ name: `${called} ${ids}`, vendorId, deviceId, vendorName: fitted(vendorName, 200), version: fitted(version, 40) },
    ...{ released: fitted(releaseDate, 40), language, languages, document },
  }
}

/** Without what does not show, and no longer than it may be. */
const fitted = (text: string, most: number) =>
  text
    .replace(/\p{C}+/gu, ' ')
    .trim()
    .slice(0, most)
