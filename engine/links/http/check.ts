import { fault, type Fault } from '#core/faults/catalogue'
import { placeOfBase } from '#core/http/base'
import { callText } from '#core/http/call'
import { formDifferences } from '#core/http/form'
import { requestOf, requiredOf } from '#core/http/operation'
import type { HttpSettings, Operation } from '#core/http/settings'
import { statusText } from '#core/http/status'
import { formOf } from '#core/messages/form'
import { parseJson } from '#core/messages/json'
import type { CheckStep, FarSide } from '#shared/status'
import { resolveName } from '../../wire/resolveName'
import { checkSteps } from '../checkSteps'
import type { CheckContext } from '../driver'
import { accessOf } from './access'
import { Caller, type Answer, type CallFailure } from './caller'

const { waiting, sound, failed, notReached, open } = checkSteps({
  name: 'Name',
  port: 'Port',
  tls: 'Protection',
  answer: 'First answer',
  form: 'Form',
})

type Around = Pick<CheckContext, 'wire' | 'security'>

/** The steps that lead to a host, by whatever names the rest of the check goes. */
type WaySteps = Pick<ReturnType<typeof checkSteps<'name' | 'port' | 'tls'>>, 'waiting' | 'sound' | 'failed' | 'notReached' | 'open'>

/**
 * Name, port, protection, what it says to the first operation that asks for nothing more (else to the base address), and whether
 * that is of the form of its example. Behind a proxy, name and port are those of the proxy.
 */
export async function* checkHttp(settings: HttpSettings, signal: AbortSignal, around: Around): AsyncGenerator<CheckStep> {
  const caller = yield* wayThere({ waiting, sound, failed, notReached, open }, settings, signal, around)
  if (!caller) return
  try {
    if (!signal.aborted) yield* firstAnswer(settings, signal, caller)
  } finally {
    await caller.close()
  }
}

/** Name, port and protection; null: it ended on the way. */
export async function* wayThere(
  { waiting, sound, failed, notReached, open }: WaySteps,
  settings: HttpSettings,
  signal: AbortSignal,
  around: Around,
): AsyncGenerator<CheckStep, Caller | null> {
  const { isEncrypted } = placeOfBase(settings.base)
  const { host, port } = settings.proxy.kind === 'http' ? settings.proxy : placeOfBase(settings.base)
  yield waiting('name')
  const name = await resolveName(host, port, settings.patience.connect)
  if ('fault' in name) {
    yield failed('name', name.fault, name.ms)
    yield* notReached('name')
    return null
  }
  yield sound('name', name.evidence, name.ms)
  if (signal.aborted) return null
  yield waiting('port')
  const began = performance.now()
  try {
    const socket = await around.wire.dial({ host: name.address, port, connectMs: settings.patience.connect, signal })
    socket.destroy()
    yield sound('port', `TCP ${port} open${settings.proxy.kind === 'http' ? ', at the proxy' : ''}`, performance.now() - began)
  } catch (why) {
    yield failed('port', why as Fault, performance.now() - began)
    yield* notReached('port')
    return null
  }
  const caller = callerFor(settings, around)
  if ('code' in caller) {
    yield failed('tls', caller, null)
    yield* notReached('tls')
    return null
  }
  if (!isEncrypted) {
    yield open('tls', 'off', 'http: nothing is encrypted')
    return caller
  }
  const handshakeBegan = performance.now()
  try {
    const { socket, agreed } = await caller.connect(signal)
    socket.destroy()
    yield sound('tls', agreed ?? '', performance.now() - handshakeBegan, shownBy(caller))
    return caller
  } catch (why) {
    await caller.close()
    yield failed('tls', why as Fault, performance.now() - handshakeBegan, shownBy(caller))
    yield* notReached('tls')
    return null
  }
}

const shownBy = ({ certificate }: Caller) => (certificate === null ? {} : { farSide: { certificate } })

/** How it calls itself, and what time it is there (RFC 9110, 10.2.4, 6.6.1). */
const farSideIn = ({ headers, at }: Answer): FarSide => {
  const [server, date] = [headers.server, headers.date]
  const clock = typeof date === 'string' ? Date.parse(date) : NaN
  return {
    ...(typeof server === 'string' && server !== '' ? { peer: server } : {}),
    ...(Number.isFinite(clock) ? { clockAhead: clock - at } : {}),
  }
}

const callerFor = (settings: HttpSettings, { wire, security }: Around): Caller | Fault => {
  try {
    return new Caller({ ...settings, atOnce: 1 }, accessOf(settings, security, wire), wire)
  } catch (error) {
    return fault('ours.unexpected', { problem: (error as Error).message })
  }
}

async function* firstAnswer({ operations }: HttpSettings, signal: AbortSignal, caller: Caller): AsyncGenerator<CheckStep> {
  yield waiting('answer')
  const harmless = operations.find((operation) => operation.method === 'GET' && requiredOf(operation).length === 0)
  const request = harmless ? requestOf(harmless, {}) : { method: 'GET' as const, target: '', headers: {}, body: null }
  const what = harmless ? callText({ operation: harmless.name, given: {} }) : 'the base address'
  try {
    const answer = await caller.ask(request, { signal })
    const refusal = caller.refusalOf(answer)
    if (refusal) return yield* refused(refusal, { isOperation: harmless !== undefined, what, farSide: farSideIn(answer) })
    const { status, body, ms } = answer
    const size = `${body.length.toLocaleString('en-GB')} bytes`
    const evidence = `${what}: status ${status}, ${statusText(status)}, ${formOf(body)}, ${size}`
    yield sound('answer', evidence, ms, { farSide: farSideIn(answer) })
    yield harmless ? formStep(harmless, answer) : open('form', 'off', 'not compared: no operation asks for nothing more')
  } catch (error) {
    yield* refused(error as CallFailure, { isOperation: harmless !== undefined, what, farSide: {} })
  }
}

/** Few services say anything at their base; that one answers at all is what is to be known there. */
function* refused(
  { why, status }: CallFailure,
  { isOperation, what, farSide }: { isOperation: boolean; what: string; farSide: FarSide },
): Generator<CheckStep> {
  if (!isOperation && status !== null && status !== 401 && status !== 403) {
    yield sound('answer', `${what}: status ${status}, ${statusText(status)}; it answers`, null, { farSide })
    yield open('form', 'off', 'not compared: no operation asks for nothing more')
  } else {
    yield failed('answer', why, null, { farSide })
    yield* notReached('answer')
  }
}

const formStep = ({ name, example }: Operation, { body }: Answer): CheckStep => {
  if (example === '') return open('form', 'off', `not compared: ${name} has no example yet`)
  try {
    const differences = formDifferences(parseJson(example), parseJson(new TextDecoder().decode(body)))
    if (differences.length === 0) return sound('form', `as the example of ${name}`, null)
    return failed('form', fault('http.form', { call: name, differences: differences.join(', ') }), null)
  } catch (error) {
    return failed('form', fault('http.form', { call: name, differences: (error as Error).message }), null)
  }
}
