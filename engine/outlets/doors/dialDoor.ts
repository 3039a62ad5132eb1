import { judge } from '#core/certificates/judge'
import { fault, type Fault } from '#core/faults/catalogue'
import { tcpFault } from '#core/faults/tcp'
import type { DoorPlace } from '#shared/outlets/doors'
import type { CheckStep } from '#shared/status'
import type { OwnCertificate } from '#security/ownCertificate'
import { checkSteps } from '../../links/checkSteps'
import type { Wire } from '../../wire/wire'
import { hostOf } from './place'
import { doorTitles, outsideTitle } from './walkToDoor'

/** The steps of a door that may be secured by TLS, and that answers who comes. */
export const tlsDoorSteps = checkSteps({ ...doorTitles, secured: 'Secured', answer: 'Answer', ...outsideTitle })
const { waiting, sound, failed, open, notReached } = tlsDoorSteps
const connectMs = 2000

interface Dialled {
  door: DoorPlace & { tls: boolean }
  own: OwnCertificate
  wire: Wire
  /** What is said to somebody who comes without a name. */
  answer(): Promise<string>
}

/** Comes to the port of a door, looks at our certificate as a careful client does, and asks. */
export async function* dialDoor(numeric: string, { door, own, wire, answer }: Dialled): AsyncGenerator<CheckStep> {
  const { port } = door
  yield waiting('port')
  let began = performance.now()
  try {
    const socket = await wire.dial({ host: numeric, port, connectMs })
    yield sound('port', `TCP ${port} open`, performance.now() - began)
    socket.destroy()
  } catch (why) {
    yield failed('port', why as Fault, performance.now() - began)
    return yield* notReached('port').slice(0, -1)
  }
  yield certificateFor(door, own)
  yield waiting('answer')
  began = performance.now()
  const told = await answer().catch((error: Error) => error)
  const ms = performance.now() - began
  if (told instanceof Error) yield failed('answer', tcpFault(told, hostOf(door), port), ms)
  else yield sound('answer', told, ms)
}

/** A careful client compares the host that it dialled with the hosts in our certificate. */
const certificateFor = (door: Dialled['door'], { facts }: OwnCertificate): CheckStep => {
  if (!door.tls) return open('secured', 'off', 'this door encrypts nothing')
  const host = hostOf(door)
  const [problem] = judge(facts, { now: Date.now(), host, applicationUri: null })
  if (!problem)
    return sound('secured', `our certificate is for ${host}, valid until ${new Date(facts.validTo).toISOString().slice(0, 10)}`, null)
  return failed('secured', fault('outlet.certificate-for', { host, problem: problem.text }), null)
}
