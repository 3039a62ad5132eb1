import type { Generated, JSONColumnType } from 'kysely'
import { cataloguedDescription } from '#core/iolink/description/catalogued'
import { byName, subject } from './definition'

export interface DeviceDescriptionTable {
  id: Generated<number>
  name: string
  vendorId: number
  deviceId: number
  vendorName: string
  version: string
  released: string
  language: string
  languages: JSONColumnType<string[]>
  document: string
  revision: number
}

/** What makers say of their devices, in a catalogue. */
export const deviceDescription = subject<DeviceDescriptionTable>()({
  contract: cataloguedDescription,
  nameOf: byName,
  text: { section: 'deviceDescriptions', key: 'name' },
  needs: [],
})
