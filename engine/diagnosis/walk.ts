import { isIP } from 'node:net'
import { changesSince, type Circumstances } from '#core/diagnosis/changes'
import type { Facts, Goal } from '#core/diagnosis/facts'
import type { Fault } from '#core/faults/catalogue'
import { causesOf } from '#core/diagnosis/rank'
import type { Break } from '#core/diagnosis/steadiness'
import { wayRoundOf } from '#core/diagnosis/wayRound'
import { routeText } from '#core/diagnosis/words'
import type { Mask } from '#core/handover/mask'
import type { CheckPart, PassedPiece, Verdict } from '#shared/diagnosis'
import type { CheckStep, FarSide } from '#shared/status'
import type { Piece } from '../wire/recall'
import { partPrefix } from './freshness'
import { lookFurther, type Further } from './lookFurther'
import { addressesOf, greetingIn } from './probes'

/** What was found out about the far side and the way there. */
export type Found = Pick<Circumstances, 'address' | 'route' | 'hardware' | 'certificate' | 'peer' | 'clockAhead'>

/** What is known of a path besides what is walked now. */
export interface KnownPath {
  /** Where the way to this step leads, as far as it is a matter of the network. */
  goalOf(stop: CheckStep): Goal | null
  lastGood: number | null
  breaks: readonly Break[]
  /** As it was when it last worked. */
  then: Circumstances | null
  beside: readonly string[]
  /** As it leaves the memory: without secrets. */
  exchange: Verdict['exchange']
  /** How it is now, from what was found. */
  now(found: Found): Circumstances
  /** The pieces that came over connections of this check. */
  heard(): Uint8Array | null
  mayGreet: boolean
  /** What the steps themselves found out beside what they tell. */
  more(): Partial<Facts>
  /** Hears what the steps learned of the far side. */
  learned?(farSide: FarSide): void
}

/** A check as it goes, each step with the moment at which it began; after a stop, what that means. */
export async function* walked(steps: AsyncGenerator<CheckStep>, known: KnownPath): AsyncGenerator<CheckPart> {
  const began = performance.now()
  const starts = new Map<string, number>()
  let last = 0
  let stop: CheckStep | null = null
  const farSide: FarSide = {}
  for await (const step of steps) {
    const at = starts.get(step.step) ?? last
    starts.set(step.step, at)
    last = performance.now() - began
    if (step.fault) stop ??= step
    Object.assign(farSide, step.certificate ? { certificate: step.certificate.facts.fingerprintSha1 } : {}, step.farSide)
    yield { ...step, at }
  }
  if (!stop) known.learned?.(farSide)
  else yield { verdict: await verdictOf(stop, known, farSide) }
}

const verdictOf = async (stop: CheckStep, known: KnownPath, farSide: FarSide): Promise<Verdict> => {
  const { then, lastGood, breaks, beside } = known
  const fault = stop.fault!
  const goal = isToBeLookedAt(stop) ? known.goalOf(stop) : null
  const address = goal ? await addressOf(goal.host) : null
  const heard = known.heard()
  const spoken = heard ? greetingIn(heard) : null
  const isAwaited = known.mayGreet && !isPart(stop)
  const further: Further = goal
    ? await lookFurther({ goal, address, fault, isAwaited, comesAndGoes: breaks.length > 0, mayGreet: isAwaited && !spoken })
    : { facts: {}, looked: [], hardware: null }
  const { route } = further.facts
  const { certificate = null, peer = null, clockAhead = null } = farSide
  const now = known.now({ address, route: route ? routeText(route) : null, hardware: further.hardware, certificate, peer, clockAhead })
  const changes = then ? changesSince(then, now) : []
  const facts: Facts = {
    ...{ step: stop.title, isPart: isPart(stop), fault, ms: stop.ms, lastGood, breaks, beside, changes, now: now.at },
    ...(goal ? { goal } : {}),
    ...(address === null ? {} : { address }),
    ...further.facts,
    ...known.more(),
    ...(spoken ? { greeting: spoken } : {}),
  }
  const causes = stop.causes ?? causesOf(facts)
  const { looked } = further
  return { at: now.at, step: stop.step, causes, looked, lastGood, changes, wayRound: wayRoundOf(facts, causes), exchange: known.exchange }
}

/** What somebody switched off is not knocked at, nor what another copy walked. */
const isToBeLookedAt = ({ fault, causes }: CheckStep) => causes === undefined && fault !== null && !isOff(fault)
const isOff = ({ code }: Fault) => code === 'link.off' || code === 'outlet.off' || code === 'bridge.off'

/** A part of the far side, or a single point: all before it is sound. */
const isPart = ({ step, joint }: CheckStep) => step.startsWith(partPrefix) || joint === 'point'

/** The address of a host as this machine knows it; null: it knows none. */
export const addressOf = async (host: string): Promise<string | null> => (isIP(host) ? host : ((await addressesOf(host))?.[0] ?? null))

/** A piece as it leaves the memory: secrets in it are taken out first. */
export const passed = ({ bytes, ...piece }: Piece, mask: Mask): PassedPiece => ({
  ...piece,
  bytes: Buffer.from(mask.bytes(bytes)).toString('base64'),
})
