import type { Fault } from '#core/faults/catalogue'
import { modeText, type OpcuaSettings } from '#core/opcua/settings'
import type { CheckStep } from '#shared/status'
import { within } from '#pacing/within'
import { farHalves, walkedForAnother } from './farHalves'
import { firstValue } from './firstValue'
import { awaitedSteps, ladderSteps } from './ladderSteps'
import { generalFault } from '../../opcua/refusals'
import type { SignedIn } from './signedIn'

/**
 * A check of the link as it is, over the session that it holds: a server with room for one client only would
 * refuse another. What was climbed to get there is told as it stands; the state is read anew.
 */
export async function* checkSignedIn(
  here: SignedIn,
  settings: OpcuaSettings,
  peer: { host: string; port: number },
): AsyncGenerator<CheckStep> {
  const { policy, mode, identity, patience, awaits } = settings
  const isSecured = policy !== 'None'
  yield* awaits ? asAwaited(awaits) : asDialled(peer)
  const { waiting, sound, failed } = awaits ? awaitedSteps : ladderSteps
  yield sound('offers', 'the one that the link came in by', null)
  yield sound('theirs', isSecured ? 'trusted' : 'not needed: nothing is signed on this way in', null)
  yield sound('ours', isSecured ? `accepted, ${policy}, ${modeText[mode]}` : 'not asked for', null)
  yield sound('signin', signedInAs(identity), null)
  yield waiting('value')
  const started = performance.now()
  const first = await within(patience.answer, firstValue(here.session)).catch((error: unknown): { fault: Fault } => ({
    fault: generalFault(error, 'read its state', { ...peer, answerMs: patience.answer }),
  }))
  const ms = performance.now() - started
  yield 'fault' in first ? failed('value', first.fault, ms) : sound('value', first.evidence, ms, { farSide: first.farSide })
  const { session, namespaces, farLinks } = here
  if (farLinks && !('fault' in first) && !walkedForAnother.getStore()) yield* farHalves({ session, namespaces, links: farLinks.list() })
}

const asDialled = (peer: { host: string; port: number }): CheckStep[] => [
  ladderSteps.sound('name', `the link is connected to ${peer.host}:${peer.port}`, null),
  ladderSteps.sound('port', 'open; looked at over the session of the link, which goes on', null),
  ladderSteps.sound('hello', 'OPC UA', null),
]

const asAwaited = ({ interface: address, port }: NonNullable<OpcuaSettings['awaits']>): CheckStep[] => [
  awaitedSteps.sound('door', `listens at ${address}:${port}`, null),
  awaitedSteps.sound('dialled', 'it did; looked at over the session of the link, which goes on', null),
]

const signedInAs = (identity: OpcuaSettings['identity']) => {
  if (identity.kind === 'password') return `as ${identity.user}`
  if (identity.kind === 'anonymous') return 'as anonymous'
  return identity.kind === 'ours' ? 'by our own certificate' : 'as the holder of our user certificate'
}
