import { fault, type Fault } from '#core/faults/catalogue'
import { formatAddress, refText } from '#core/bacnet/address'
import { hasFlags } from '#core/bacnet/planning'
import { pointOf } from '#core/bacnet/point'
import { prop } from '#core/bacnet/property'
import type { BacnetSettings } from '#core/bacnet/settings'
import { statusFlagsOf } from '#core/bacnet/statusFlags'
import type { PointDefinition } from '#core/links/protocol'
import { duration } from '#core/text/duration'
import type { ValueOrigin } from '#shared/values'
import type { Wire } from '../../wire/wire'
import { errorFault, outcomeFault, patienceOf, readOne, type Send } from './asking'
import { Directory } from './directory'
import { Registration } from './foreign'
import { stagesFrom } from './origin'
import { asFault, type BacnetPort, type PortUser } from './port'
import { leasePort } from './ports'

interface Over {
  port: BacnetPort
  user: PortUser
  directory: Directory
  settings: BacnetSettings
}

/** Somebody for whom a port is opened once, to look. */
export const onlooker = (wire: Wire) => {
  const around: { directory: Directory | null; registration: Registration | null } = { directory: null, registration: null }
  const user: PortUser = {
    see: (peer, out, bytes) => wire.tap.datagram(peer, out, bytes),
    iAm: (who, from) => around.directory?.iAm(who, from),
    notified: () => false,
    registered: (code, from) => around.registration?.take(code, from),
  }
  return { user, around }
}

/** Reads one point once, and tells how its value comes about. */
export const tryReadBacnet = async (settings: BacnetSettings, point: PointDefinition, wire: Wire): Promise<ValueOrigin> => {
  const { user, around } = onlooker(wire)
  try {
    const lease = await leasePort(settings, user)
    const registration = settings.foreign && new Registration(settings.foreign, settings.patience, lease.port, user, () => {})
    around.registration = registration
    around.directory = new Directory(lease.port, user, settings, registration)
    try {
      return await readOnceOver({ port: lease.port, user, directory: around.directory, settings }, point)
    } finally {
      registration?.close()
      lease.release()
    }
  } catch (why) {
    return failed(asFault(why), point.address)
  }
}

export const readOnceOver = async ({ port, user, directory, settings }: Over, definition: PointDefinition): Promise<ValueOrigin> => {
  const placed = pointOf(definition, settings)
  if (!placed) return failed(fault('entry.unreadable', { problem: `the address ${definition.address}` }), definition.address)
  const { address } = placed
  const place = formatAddress(address)
  try {
    const { station } = await directory.locate(address.device)
    const send: Send = (service, content) => port.request(user, station, { service, content, ...patienceOf(settings) })
    const { outcome, answer } = await readOne(send, address)
    if (!answer) return failed(outcomeFault(outcome, { device: String(address.device), station, what: refText(address) })!, place)
    if (!answer.ok) return failed(errorFault(answer.error, refText(address)), place)
    const flags = hasFlags(address) ? await readOne(send, { ...address, property: prop.statusFlags }) : null
    const ms = outcome.kind === 'done' ? outcome.ms : 0
    const sent = { values: answer.values, flags: flags?.answer?.ok ? statusFlagsOf(flags.answer.values) : null }
    const from = { detail: `read once, ${duration(ms)}, answer at`, at: Date.now() }
    const stages = stagesFrom(sent, definition.type, { scaling: null, odd: null }, from)
    return { stages, readings: [], wordsFrom: place, goesTo: [], fault: null }
  } catch (why) {
    return failed(asFault(why), place)
  }
}

const failed = (why: Fault, wordsFrom: string): ValueOrigin => ({ stages: [], readings: [], wordsFrom, goesTo: [], fault: why })
