import type { Kysely } from 'kysely'
import { hostText } from '#core/opcua/endpointAddress'
import type { OpcuaSettings } from '#core/opcua/settings'
import { readable, thingOf } from '#db/rows'
import type { Database } from '#db/tables'
import { settingsAs } from '#shared/outlets/outlet'
import type { OpcuaServerSettings } from '#shared/outlets/opcuaServer'
import type { Relay } from '#shared/pairing'
import { database } from '../store/database'

type Way = Pick<Relay, 'partner' | 'fingerprint' | 'dials' | 'at'>

/** What is paired, by name, and what is decided about each. */
export const relays = async (db: Kysely<Database> = database()): Promise<Relay[]> => {
  const [links, outlets, certificates] = await Promise.all([
    db.selectFrom('link').selectAll().where('kind', '=', 'opcua').execute(),
    db.selectFrom('outlet').selectAll().where('kind', '=', 'opcua-server').execute(),
    db.selectFrom('certificate').select(['fingerprint', 'verdict']).execute(),
  ])
  const verdicts = new Map(certificates.map(({ fingerprint, verdict }) => [fingerprint, verdict]))
  const found = [
    ...readable(links, (row) => {
      const { id, name, on, settings } = thingOf('link', row)
      return { of: 'link' as const, id, name, on, way: wayOfLink(settings as OpcuaSettings) }
    }),
    ...readable(outlets, (row) => {
      const outlet = thingOf('outlet', row)
      const settings = settingsAs('opcua-server', outlet)
      return { of: 'outlet' as const, id: outlet.id, name: outlet.name, on: outlet.on, way: settings && wayOfOutlet(settings) }
    }),
  ]
  return found
    .flatMap(({ way, ...rest }) => (way ? [{ ...rest, ...way, verdict: verdicts.get(way.fingerprint) ?? ('unknown' as const) }] : []))
    .sort((a, b) => a.name.localeCompare(b.name))
}

const wayOfLink = ({ paired, awaits, address }: OpcuaSettings): Way | null => {
  if (!paired) return null
  const base = { partner: paired.name, fingerprint: paired.fingerprint }
  return awaits ? { ...base, dials: 'there', at: placeText(awaits.interface, awaits.port) } : { ...base, dials: 'here', at: address }
}

const wayOfOutlet = ({ paired, dialled, doors }: OpcuaServerSettings): Way | null => {
  if (!paired) return null
  const base = { partner: paired.name, fingerprint: paired.fingerprint }
  const [client] = dialled
  if (client) return { ...base, dials: 'here', at: placeText(client.host, client.port) }
  const door = doors.find(({ on }) => on)
  return { ...base, dials: 'there', at: door ? placeText(door.interface, door.port) : 'no door is open' }
}

const placeText = (host: string, port: number) => `${hostText(host)}:${port}`
