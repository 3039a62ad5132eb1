import { judge } from '#core/certificates/judge'
import { fault, type Fault } from '#core/faults/catalogue'
import { endpointUrl, type EndpointAddress } from '#core/opcua/endpointAddress'
import { modeText } from '#core/opcua/settings'
import type { DoorStatus } from '#shared/outlets/doorStatus'
import type { Door } from '#shared/outlets/opcuaServer'
import type { CheckStep } from '#shared/status'
import { checkSteps } from '../../links/checkSteps'
import { findOffers } from '../../opcua/find'
import type { Wire } from '../../wire/wire'
import { greet } from '../../opcua/greet'
import { generalFault } from '../../opcua/refusals'
import type { OwnCertificate } from '#security/ownCertificate'
import { hostOf } from '../doors/place'
import { doorTitles, outsideTitle, walkToDoor } from '../doors/walkToDoor'

const steps = checkSteps({ ...doorTitles, offers: 'Offered ways in', ours: 'Our certificate', ...outsideTitle })
const { waiting, sound, failed, notReached } = steps

const patience = { connect: 2000, answer: 3000, retryFirst: 1000, retryMost: 1000, session: 60_000 }

export interface Checked {
  door: Door
  status: DoorStatus
  own: OwnCertificate
  wire: Wire
}

/** Comes to a door as an OPC UA client does. */
export const checkDoor = ({ door, status, own, wire }: Checked): AsyncGenerator<CheckStep> =>
  walkToDoor(steps, { door, status }, (numeric) => asDialled({ host: hostOf(door), port: door.port, path: '' }, numeric, door, own, wire))

async function* asDialled(
  address: EndpointAddress,
  numeric: string,
  door: Door,
  own: OwnCertificate,
  wire: Wire,
): AsyncGenerator<CheckStep> {
  if (!(yield* knock(address, numeric, wire))) return
  yield* lookIn(address, door, own, wire)
  yield certificateFor(address.host, door, own)
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
