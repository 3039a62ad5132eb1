import { isIP } from 'node:net'
import { judge } from '#core/certificates/judge'
import { fault, type Fault } from '#core/faults/catalogue'
import { endpointUrl, type EndpointAddress } from '#core/opcua/endpointAddress'
import { modeText } from '#core/opcua/settings'
import { counted } from '#core/text/counted'
import { duration } from '#core/text/duration'
import { isOpenToOthers } from '#shared/outlets/doors'
import type { DoorStatus } from '#shared/outlets/doorStatus'
import type { Door } from '#shared/outlets/opcuaServer'
import type { CheckStep } from '#shared/status'
import { isOwnAddress } from '../../wire/interfaces'
import { checkSteps } from '../../links/checkSteps'
import { resolveName } from '../../wire/resolveName'
import { findOffers } from '../../opcua/find'
import type { Wire } from '../../wire/wire'
import { greet } from '../../opcua/greet'
import { generalFault } from '../../opcua/refusals'
import type { OwnCertificate } from '#security/ownCertificate'
import { hostOf } from '../doors/place'

const { waiting, sound, failed, notReached, open } = checkSteps({
  open: 'Here',
  name: 'Name',
  port: 'Port',
  offers: 'Offered ways in',
  ours: 'Our certificate',
  others: 'From outside',
})

const patience = { connect: 2000, answer: 3000, retryFirst: 1000, retryMost: 1000, session: 60_000 }

export interface Checked {
  door: Door
  status: DoorStatus
  own: OwnCertificate
  wire: Wire
}

/**
 * Comes to a door as a client does: by the address that clients are told. What lies between this
 * machine and another one cannot be measured from here; the last step tells who came from elsewhere.
 */
export async function* checkDoor({ door, status, own, wire }: Checked): AsyncGenerator<CheckStep> {
  if (status.flow !== 'flowing') {
    yield failed('open', status.fault ?? fault('outlet.door-closed', { port: door.port }), null)
    return yield* notReached('open')
  }
  yield sound('open', `listens on ${door.interface}, TCP ${door.port}`, null)
  const address: EndpointAddress = { host: hostOf(door), port: door.port, path: '' }
  yield* asDialled(address, door, own, wire)
  yield fromOutside(door, status)
}

async function* asDialled(address: EndpointAddress, door: Door, own: OwnCertificate, wire: Wire): AsyncGenerator<CheckStep> {
  const { host, port } = address
  yield waiting('name')
  const name = await resolveName(host, port, patience.connect)
  if ('fault' in name) {
    yield failed('name', name.fault, name.ms)
    return yield* notReached('name').slice(0, -1)
  }
  if (isIP(host) === 0 && !isOwnAddress(name.address)) {
    yield failed('name', fault('outlet.name-elsewhere', { host, address: name.address }, `${host} is ${name.address}`), name.ms)
    return yield* notReached('name').slice(0, -1)
  }
  yield sound('name', name.evidence, name.ms)
  if (!(yield* knock(address, name.address, wire))) return
  yield* lookIn(address, door, own, wire)
  yield certificateFor(host, door, own)
}

async function* knock(address: EndpointAddress, numeric: string, wire: Wire): AsyncGenerator<CheckStep, boolean> {
  const { host, port } = address
  yield waiting('port')
  const started = performance.now()
  const refusal = await wire.dial({ host: numeric, port, connectMs: patience.connect }).then(
    (socket) => greet(socket, endpointUrl(address), host, port, patience.answer),
    (why: Fault) => why,
  )
  const ms = performance.now() - started
  if (refusal) {
    yield failed('port', refusal, ms)
    yield* notReached('port').slice(0, -1)
    return false
  }
  yield sound('port', `TCP ${port} open, and OPC UA answers`, ms)
  return true
}

async function* lookIn(address: EndpointAddress, door: Door, own: OwnCertificate, wire: Wire): AsyncGenerator<CheckStep> {
  yield waiting('offers')
  const started = performance.now()
  try {
    const { offers } = await findOffers(address, own, patience, wire)
    const ways = offers.map(({ policy, mode }) => (policy === 'None' ? 'none' : `${policy}, ${modeText[mode]}`))
    yield sound('offers', `${ways.join('; ')} at ${offers[0]?.url ?? 'no address'}`, performance.now() - started)
  } catch (error) {
    const at = { host: address.host, port: address.port, answerMs: patience.answer }
    yield failed('offers', generalFault(error, `tell what door ${door.port} offers`, at), performance.now() - started)
  }
}

/** A careful client compares the host that it dialled with the hosts in our certificate. */
const certificateFor = (host: string, door: Door, own: OwnCertificate): CheckStep => {
  if (door.policies.every((policy) => policy === 'None')) return sound('ours', 'not asked for at this door', null)
  const { facts } = own
  const [problem] = judge(facts, { now: Date.now(), host, applicationUri: null })
  if (!problem) return sound('ours', `is for ${host}, valid until ${new Date(facts.validTo).toISOString().slice(0, 10)}`, null)
  return failed('ours', fault('outlet.certificate-for', { host, problem: problem.text }), null)
}

const fromOutside = (door: Door, { arrivals }: DoorStatus): CheckStep => {
  if (!isOpenToOthers(door)) return open('others', 'off', 'this door is for this machine only')
  if (!arrivals.last)
    return open(
      'others',
      'waiting',
      `nobody from another machine came since the door opened. Whether something in between lets TCP ${door.port} in can only be tried from there`,
    )
  const ago = duration(Date.now() - arrivals.last.at)
  return sound('others', `${arrivals.last.from} came ${ago} ago; ${counted(arrivals.machines, 'machine')} in all`, null)
}
