import { fault, isFault, type Fault } from '#core/faults/catalogue'
import { tcpFault } from '#core/faults/tcp'
import { fingerprintText } from '#core/certificates/judge'
import type { PairingCode } from '#core/pairing/code'
import { within } from '#pacing/within'
import { certificateFacts } from '#security/certificateFacts'
import type { GiveWishes, PairedThing, TakeWishes } from '#shared/pairing'
import type { CheckStep } from '#shared/status'
import { checkSteps } from '../links/checkSteps'
import { transportsOver } from '../opcua/transports'
import { resolveName } from '../wire/resolveName'
import { Wire } from '../wire/wire'
import { PairingServer } from './giver'
import { makeLinkTo, makeOutletFor } from './made'
import { factsOf } from './ownFacts'
import type { Partner } from './partner'
import { saved, settle } from './settling'
import type { Surroundings } from './surroundings'
import { takePart } from './taker'

interface Redeeming {
  code: PairingCode
  who: string
  around: Surroundings
  signal: AbortSignal
}

const connectMs = 5000
const takenUpMs = 15_000
const decidedMs = 40_000
const goodbyeMs = 1000

const steps = checkSteps({
  name: 'Name',
  port: 'Port',
  taken: 'Taken up there',
  proof: 'Their proof',
  here: 'Decided here',
  session: 'First session',
})

/** Pairs by the code of another copy that takes our values: we dial, it comes in over that, and both prove that they know the code. */
export async function* giveBy(work: Redeeming, wishes: GiveWishes): AsyncGenerator<CheckStep> {
  const { code, around } = work
  if (!(yield* reached(work))) return
  const wire = new Wire()
  const proven = later<Omit<Partner, 'facts'>>()
  const decided = later<{ made: PairedThing; partner: Partner } | Fault>()
  const accept = async (partner: Partner): Promise<Fault | null> => {
    const made = await saved(around, makeOutletFor({ db: around.db, who: work.who }, partner, { dial: placeOf(code) }, wishes))
    decided.settle(isFault(made) ? made : { made, partner })
    return isFault(made) ? made : null
  }
  const ours = factsOf(around)
  const server = await PairingServer.start({
    ...{ security: around.security, wire, secret: code.secret, ours, accept, proven: proven.settle },
    wrong: () => proven.fail(fault('pairing.proof', { by: 'What took up our connection' })),
  })
  try {
    yield* given({ ...work, server, proven: proven.promise, decided: decided.promise })
  } finally {
    setTimeout(() => void server.close().finally(() => wire.close()), goodbyeMs)
  }
}

interface Giving extends Redeeming {
  server: PairingServer
  proven: Promise<Omit<Partner, 'facts'>>
  decided: Promise<{ made: PairedThing; partner: Partner } | Fault>
}

async function* given({ code, around, signal, server, proven, decided }: Giving): AsyncGenerator<CheckStep> {
  yield steps.waiting('taken')
  const keep = dialOn(server, code)
  try {
    const taken = await orFault(within(takenUpMs, keep.taken), () =>
      fault('pairing.not-awaited', code, 'it does not take our connection up'),
    )
    if (isFault(taken)) return yield* stop('taken', taken)
    yield steps.sound('taken', `by ${code.host}:${code.port}`, null)

    yield steps.waiting('proof')
    const partner = await orFault(within(takenUpMs, proven), () => slow('Their proof', takenUpMs))
    if (isFault(partner)) return yield* stop('proof', partner)
    const shown = certificateFacts(partner.der)
    if (!shown.fingerprint.startsWith(code.fingerprint)) return yield* stop('proof', fault('pairing.other-machine', code))
    yield steps.sound('proof', `${shown.name} · ${fingerprintText(shown.fingerprint)}`, null)

    yield steps.waiting('here')
    const outcome = await orFault(within(decidedMs, decided), () => slow('Their decision', decidedMs))
    if (isFault(outcome)) return yield* stop('here', outcome)
    const { name } = outcome.partner.facts
    yield steps.sound('here', `“${name}” is trusted, outlet “${outcome.made.name}” made`, null)
    yield* together(around, outcome.made, name, signal)
  } finally {
    keep.end()
  }
}

/** Pairs by the code of another copy whose values are taken: we dial it, prove ourselves, and have it prove itself. */
export async function* takeBy(work: Redeeming, wishes: TakeWishes): AsyncGenerator<CheckStep> {
  const { code, around, who } = work
  if (!(yield* reached(work))) return
  const wire = new Wire()
  try {
    const address = { host: code.host, port: code.port, path: '' }
    const partner = yield* takePart({
      ...{ address, transports: transportsOver, isAwaited: false, secret: code.secret, expected: code.fingerprint },
      ...{ security: around.security, wire, ours: factsOf(around) },
    })
    if (!partner) return
    yield steps.waiting('here')
    const made = await saved(around, makeLinkTo({ db: around.db, who }, partner, { dial: placeOf(code) }, wishes))
    if (isFault(made)) return yield* stop('here', made)
    yield steps.sound('here', `“${partner.facts.name}” is trusted, link “${made.name}” made`, null)
    yield* together(around, made, partner.facts.name, work.signal)
  } finally {
    wire.close()
  }
}

async function* together(around: Surroundings, made: PairedThing, name: string, signal: AbortSignal): AsyncGenerator<CheckStep> {
  yield steps.waiting('session')
  const why = await settle(around, made, name, signal)
  if (why) yield* stop('session', why)
  else yield steps.sound('session', `“${name}” and we came together`, null, { about: { subject: made.of, id: made.id } })
}

/** Whether something listens where the code leads to. */
async function* reached({ code: { host, port }, signal }: Redeeming): AsyncGenerator<CheckStep, boolean> {
  yield steps.waiting('name')
  const name = await resolveName(host, port, connectMs)
  if ('fault' in name) return yield* stop('name', name.fault)
  yield steps.sound('name', name.evidence, name.ms)
  yield steps.waiting('port')
  const wire = new Wire()
  const started = performance.now()
  try {
    const socket = await wire.dial({ host: name.address, port, connectMs, signal })
    socket.destroy()
  } catch (why) {
    return yield* stop('port', isFault(why) ? why : tcpFault(why as Error, host, port))
  } finally {
    wire.close()
  }
  yield steps.sound('port', `TCP ${port} open`, performance.now() - started)
  return true
}

/** The other copy takes several connections: to look, and to come in. One waits there always until this ends. */
const dialOn = (server: PairingServer, code: PairingCode) => {
  let isOver = false
  const first = later<void>()
  const dial = async () => {
    while (!isOver) {
      try {
        await server.dial(code, takenUpMs)
        first.settle()
      } catch {
        await new Promise((resolve) => setTimeout(resolve, 500))
      }
    }
  }
  void dial()
  return { taken: first.promise, end: () => (isOver = true) }
}

const placeOf = ({ host, port }: PairingCode) => ({ host, port })
const slow = (what: string, ms: number) => fault('pairing.slow', { what, seconds: ms / 1000 })

function* stop(at: Parameters<typeof steps.waiting>[0], why: Fault): Generator<CheckStep, false> {
  yield steps.failed(at, why, null)
  yield* steps.notReached(at)
  return false
}

const orFault = <T>(work: Promise<T>, otherwise: () => Fault): Promise<T | Fault> =>
  work.catch((error: unknown) => (isFault(error) ? error : otherwise()))

/** A promise that others settle. */
const later = <T>() => {
  let settle!: (value: T) => void
  let fail!: (why: Fault) => void
  const promise = new Promise<T>((resolve, reject) => {
    settle = resolve
    fail = reject
  })
  promise.catch(() => {})
  return { promise, settle, fail }
}
