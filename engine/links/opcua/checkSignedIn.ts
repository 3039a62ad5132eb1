import type { Fault } from '#core/faults/catalogue'
import { modeText, type OpcuaSettings } from '#core/opcua/settings'
import type { CheckStep } from '#shared/status'
import { within } from '#pacing/within'
import { firstValue } from './firstValue'
import { ladderSteps } from './ladderSteps'
import { generalFault } from '../../opcua/refusals'
import type { SignedIn } from './signedIn'

const { waiting, sound, failed } = ladderSteps

/**
 * A check of the link as it is, over the session that it holds: a server with room for one client only would
 * refuse another. What was climbed to get there is told as it stands; the state is read anew.
 */
export async function* checkSignedIn(
  here: SignedIn,
  settings: OpcuaSettings,
  peer: { host: string; port: number },
): AsyncGenerator<CheckStep> {
  const { policy, mode, identity, patience } = settings
  const isSecured = policy !== 'None'
  yield sound('name', `the link is connected to ${peer.host}:${peer.port}`, null)
  yield sound('port', 'open; looked at over the session of the link, which goes on', null)
  yield sound('hello', 'OPC UA', null)
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
}

const signedInAs = (identity: OpcuaSettings['identity']) => {
  if (identity.kind === 'password') return `as ${identity.user}`
  return identity.kind === 'anonymous' ? 'as anonymous' : 'as the holder of our user certificate'
}
