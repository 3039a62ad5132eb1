import { fault } from '#core/faults/catalogue'
import { refText } from '#core/bacnet/address'
import { stationText } from '#core/bacnet/frames'
import { deviceType } from '#core/bacnet/names/objectTypes'
import { prop } from '#core/bacnet/property'
import type { BacnetSettings } from '#core/bacnet/settings'
import { appText } from '#core/bacnet/conversion'
import { counted } from '#core/text/counted'
import type { CheckStep } from '#shared/status'
import { broadcastOf } from '../../wire/interfaces'
import { checkSteps } from '../checkSteps'
import type { CheckContext } from '../driver'
import { errorFault, outcomeFault, patienceOf, readOne, type Send } from './asking'
import { Directory } from './directory'
import { Registration } from './foreign'
import { asFault, type BacnetPort, type PortUser } from './port'
import { leasePort } from './ports'
import { onlooker } from './tryRead'

const { waiting, sound, failed, notReached, open } = checkSteps({
  port: 'Our UDP port',
  network: 'Way into the network',
  devices: 'Who is there',
  places: 'Known addresses',
  read: 'First read',
})

interface Over {
  settings: BacnetSettings
  port: BacnetPort
  user: PortUser
  directory: Directory
  registration: Registration | null
  /** Devices that tags are of. */
  wanted: readonly number[]
}

/** Port, way into the network, who answers, known addresses, a read: each with its time and what was seen. */
export async function* checkBacnet(
  settings: BacnetSettings,
  signal: AbortSignal,
  { wire }: Pick<CheckContext, 'wire'>,
): AsyncGenerator<CheckStep> {
  const { user, around } = onlooker(wire)
  yield waiting('port')
  const started = performance.now()
  let lease: Awaited<ReturnType<typeof leasePort>>
  try {
    lease = await leasePort(settings, user)
  } catch (why) {
    yield failed('port', asFault(why), performance.now() - started)
    return yield* notReached('port')
  }
  const registration = settings.foreign && new Registration(settings.foreign, settings.patience, lease.port, user, () => {})
  around.registration = registration
  const directory = new Directory(lease.port, user, settings, registration)
  around.directory = directory
  try {
    yield* checkOver({ settings, port: lease.port, user, directory, registration, wanted: [] }, signal)
  } finally {
    registration?.close()
    lease.release()
  }
}

export async function* checkOver(over: Over, signal: AbortSignal): AsyncGenerator<CheckStep> {
  const { settings, port, directory, registration } = over
  yield sound('port', `UDP ${port.ownPort} open${settings.port === 0 ? ', any free one: answers to broadcasts may not find it' : ''}`, null)
  yield waiting('network')
  let started = performance.now()
  await registration?.decided
  if (registration?.fault) {
    yield failed('network', registration.fault, performance.now() - started)
    return yield* notReached('network')
  }
  yield sound(
    'network',
    registration ? `the broadcast manager at ${settings.foreign!.host} takes us` : `broadcasts go to ${broadcastOf(settings)}`,
    registration ? performance.now() - started : null,
  )
  if (signal.aborted) return
  yield waiting('devices')
  started = performance.now()
  const found = await directory.everybody(signal)
  if (signal.aborted) return
  const known = new Set(settings.devices.map(({ instance }) => instance))
  yield whoStep(over, found.filter(({ instance }) => !known.has(instance)).length, performance.now() - started)
  yield* placeSteps(over)
  yield* readSteps(
    over,
    found.map(({ instance }) => instance),
  )
}

const whoStep = ({ directory, settings }: Over, answered: number, ms: number): CheckStep => {
  const [twice] = directory.duplicates()
  if (twice) return failed('devices', fault('bacnet.duplicate', { device: twice.device, places: twice.places.join(' and ') }), ms)
  if (answered > 0) return sound('devices', `${counted(answered, 'device')} answered: ${namesOf(directory)}`, ms)
  const nobody = fault('bacnet.nobody', { ways: directory.ways, ms: settings.patience.answer })
  return settings.devices.length > 0 ? open('devices', 'off', `${nobody.what} ${counted(settings.devices.length, 'address', 'addresses')} known`) : failed('devices', nobody, ms) // prettier-ignore
}

const mostNamed = 5
const namesOf = (directory: Directory) => {
  const all = directory.all()
  const named = all.slice(0, mostNamed).map(({ instance, station }) => `${instance} at ${stationText(station)}`)
  return named.join(', ') + (all.length > named.length ? ` and ${all.length - named.length} more` : '')
}

/** Each device whose address is known is asked who it is. */
async function* placeSteps({ settings, directory, wanted }: Over): AsyncGenerator<CheckStep> {
  const asked = [...new Set([...settings.devices.map(({ instance }) => instance), ...wanted])]
  if (asked.length === 0) return yield open('places', 'off', 'none is given, and no tag asks for a device')
  yield waiting('places')
  const started = performance.now()
  for (const instance of asked) {
    try {
      await directory.locate(instance)
    } catch (why) {
      return yield failed('places', asFault(why), performance.now() - started)
    }
  }
  yield sound('places', `${counted(asked.length, 'device')} answered under the right number`, performance.now() - started)
}

async function* readSteps({ settings, directory, port, user, wanted }: Over, found: readonly number[]): AsyncGenerator<CheckStep> {
  const instance = [...wanted, ...settings.devices.map((one) => one.instance), ...found].find((one) =>
    directory.all().some((located) => located.instance === one),
  )
  if (instance === undefined) return yield open('read', 'off', 'not reached')
  yield waiting('read')
  const { station } = directory.all().find((one) => one.instance === instance)!
  const send: Send = (service, content) => port.request(user, station, { service, content, ...patienceOf(settings) })
  const ref = { object: { type: deviceType, instance }, property: prop.objectName, index: null }
  const { outcome, answer } = await readOne(send, ref)
  const ms = outcome.kind === 'done' ? outcome.ms : null
  if (answer?.ok) {
    const peer = `device ${instance} is called ${answer.values.map(appText).join('')}`
    return yield sound('read', peer, ms, { farSide: { peer } })
  }
  const why = answer
    ? errorFault(answer.error, refText(ref))
    : outcomeFault(outcome, { device: String(instance), station, what: refText(ref) })!
  yield failed('read', why, ms)
}
