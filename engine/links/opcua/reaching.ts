import type { Socket } from 'node:net'
import { fault, type Fault } from '#core/faults/catalogue'
import { endpointUrl, parseEndpoint, type EndpointAddress } from '#core/opcua/endpointAddress'
import type { OpcuaSettings } from '#core/opcua/settings'
import type { CheckStep } from '#shared/status'
import { greet } from '../../opcua/greet'
import { serverDoors, type HeldDoor, type ServerCall } from '../../opcua/serverDoors'
import { transportsFrom, transportsOver, type Transports } from '../../opcua/transports'
import { doorFault } from '../../outlets/doors/place'
import { resolveName } from '../../wire/resolveName'
import type { Wire } from '../../wire/wire'
import { awaitedSteps, ladderSteps } from './ladderSteps'

/** What a server has to show a certificate for. */
export interface Named {
  /** Null: it was not called by any name. */
  host: string | null
  applicationUri: string | null
}

/** A server that speaks OPC UA, and how further connections to it come about. */
export interface Reached {
  address: EndpointAddress
  transports: Transports
  steps: typeof ladderSteps | typeof awaitedSteps
  /** How long it may take until the server dials once more, ms. */
  dialMs: number
  /** @param applicationUri as it calls itself among its endpoints */
  named(applicationUri: string | null): Named
  leave(): void
}

const since = (started: number) => performance.now() - started

/** The name is known, the port is open, and what listens there speaks OPC UA. */
export async function* reachByDialling(
  settings: OpcuaSettings,
  signal: AbortSignal,
  wire: Wire,
): AsyncGenerator<CheckStep, Reached | null> {
  const { waiting, sound, failed, notReached } = ladderSteps
  const parsed = parseEndpoint(settings.address)
  const stop = function* (at: 'name' | 'port' | 'hello', why: Fault, ms: number | null): Generator<CheckStep, null> {
    yield failed(at, why, ms)
    yield* notReached(at)
    return null
  }
  if (!parsed.ok) return yield* stop('name', fault('entry.unreadable', { problem: parsed.problem }), null)
  const { address } = parsed
  const { connect, answer } = settings.patience
  yield waiting('name')
  const name = await resolveName(address.host, address.port, connect)
  if ('fault' in name) return yield* stop('name', name.fault, name.ms)
  yield sound('name', name.evidence, name.ms)

  yield waiting('port')
  let started = performance.now()
  let socket: Socket
  try {
    socket = await wire.dial({ host: name.address, port: address.port, connectMs: connect, signal })
  } catch (why) {
    return yield* stop('port', why as Fault, since(started))
  }
  yield sound('port', `TCP ${address.port} open`, since(started))

  yield waiting('hello')
  started = performance.now()
  const refusal = await greet(socket, endpointUrl(address), address.host, address.port, answer)
  if (refusal) return yield* stop('hello', refusal, since(started))
  yield sound('hello', 'OPC UA', since(started))
  const named = (applicationUri: string | null) => ({ host: address.host, applicationUri })
  return { address, transports: transportsOver, steps: ladderSteps, dialMs: 0, named, leave: () => {} }
}

/** Servers dial anew after a minute at the latest, as a rule. */
const dialMs = 65_000
/** Once it dialled, the next connections come soon. */
const dialAgainMs = 20_000

/** The server opens the connections (OPC 10000-6, 7.1.3): we listen, it dials, and says who it is. */
export async function* reachByAwaiting(
  awaits: NonNullable<OpcuaSettings['awaits']>,
  signal: AbortSignal,
): AsyncGenerator<CheckStep, Reached | null> {
  const { waiting, sound, failed, notReached } = awaitedSteps
  const stop = function* (at: 'door' | 'dialled', why: Fault, ms: number | null): Generator<CheckStep, null> {
    yield failed(at, why, ms)
    yield* notReached(at)
    return null
  }
  yield waiting('door')
  let door: HeldDoor
  try {
    door = await serverDoors.open(awaits)
  } catch (error) {
    return yield* stop('door', doorFault(awaits, error as Error & { code?: string }), null)
  }
  yield sound('door', `listens at ${awaits.interface}:${awaits.port}`, null)

  yield waiting('dialled')
  const started = performance.now()
  const left = new AbortController()
  const first = await nextWithin(door, awaits.serverUri, AbortSignal.any([left.signal, signal]), dialMs)
  if (!first) {
    const why = nobodyDialled(awaits, door, since(started))
    door.close()
    return yield* stop('dialled', why, since(started))
  }
  yield sound('dialled', `from ${first.from}, as ${first.serverUri || 'nobody in particular'}`, since(started))
  return fromThere(first, door, left)
}

const fromThere = (first: ServerCall, door: HeldDoor, left: AbortController): Reached => {
  const parsed = parseEndpoint(first.endpointUrl)
  const [host, port] = [first.from.slice(0, first.from.lastIndexOf(':')), Number(first.from.slice(first.from.lastIndexOf(':') + 1))]
  let unused: ServerCall | null = first
  const next = async () => {
    const taken = unused
    unused = null
    if (taken && !taken.socket.destroyed) return taken
    const call = await nextWithin(door, first.serverUri, left.signal, dialAgainMs)
    if (!call) throw new Error(`it did not dial again within ${dialAgainMs / 1000} s`)
    return call
  }
  return {
    address: parsed.ok ? parsed.address : { host, port, path: '' },
    transports: transportsFrom(next),
    steps: awaitedSteps,
    dialMs: dialAgainMs,
    // behind address translation no name need be the one in its certificate; who it is, it said
    named: () => ({ host: null, applicationUri: first.serverUri || null }),
    leave: () => {
      left.abort()
      unused?.socket.destroy()
      door.close()
    },
  }
}

/** Null: none came within the time, or it is not wanted any more. */
const nextWithin = (door: HeldDoor, serverUri: string, signal: AbortSignal, ms: number): Promise<ServerCall | null> =>
  door.next(serverUri, AbortSignal.any([signal, AbortSignal.timeout(ms)])).catch(() => null)

const nobodyDialled = ({ interface: host, port, serverUri }: NonNullable<OpcuaSettings['awaits']>, door: HeldDoor, ms: number) => {
  const others = door.unawaited().filter((one) => one.serverUri !== serverUri)
  const evidence = others.map((one) => `${one.serverUri || 'somebody without a name'} from ${one.from}`).join(', ')
  return fault('opcua.nobody-dialled', { host, port, serverUri, ms, others: others.length }, evidence ? `others did: ${evidence}` : '')
}
