import type { Fault } from '#core/faults/catalogue'
import { placeOfBase } from '#core/http/base'
import { callText } from '#core/http/call'
import { isRepeatable, parametersOf, requestOf } from '#core/http/operation'
import type { HttpSettings } from '#core/http/settings'
import { statusText } from '#core/http/status'
import { formOf } from '#core/messages/form'
import type { CheckStep } from '#shared/status'
import { resolveName } from '../../wire/resolveName'
import { checkSteps } from '../checkSteps'
import type { CheckContext } from '../driver'
import { Caller, type CallFailure } from './caller'
import { dialApi } from './dial'
import { signInOf } from './signIn'

const { waiting, sound, failed, notReached, open } = checkSteps({
  name: 'Name',
  port: 'Port',
  tls: 'Protection',
  answer: 'First answer',
})

/** Name, port, protection, and what it says to the first operation that asks for nothing more; else to the base address. */
export async function* checkHttp(
  settings: HttpSettings,
  signal: AbortSignal,
  { wire, security }: Pick<CheckContext, 'wire' | 'security'>,
): AsyncGenerator<CheckStep> {
  const { host, port, isEncrypted } = placeOfBase(settings.base)
  yield waiting('name')
  const name = await resolveName(host, port, settings.patience.connect)
  if ('fault' in name) {
    yield failed('name', name.fault, name.ms)
    return yield* notReached('name')
  }
  yield sound('name', name.evidence, name.ms)
  if (signal.aborted) return
  yield waiting('port')
  let began = performance.now()
  try {
    const socket = await wire.dial({ host: name.address, port, connectMs: settings.patience.connect, signal })
    socket.destroy()
    yield sound('port', `TCP ${port} open`, performance.now() - began)
  } catch (why) {
    yield failed('port', why as Fault, performance.now() - began)
    return yield* notReached('port')
  }
  if (isEncrypted) {
    yield waiting('tls')
    began = performance.now()
    try {
      const { socket, agreed } = await dialApi(settings, wire, signal)
      socket.destroy()
      yield sound('tls', agreed ?? '', performance.now() - began)
    } catch (why) {
      yield failed('tls', why as Fault, performance.now() - began)
      return yield* notReached('tls')
    }
  } else yield open('tls', 'off', 'http: nothing is encrypted')
  if (!signal.aborted) yield* firstAnswer(settings, signal, { wire, security })
}

async function* firstAnswer(
  settings: HttpSettings,
  signal: AbortSignal,
  { wire, security }: Pick<CheckContext, 'wire' | 'security'>,
): AsyncGenerator<CheckStep> {
  yield waiting('answer')
  const harmless = settings.operations.find(
    (operation) => operation.method === 'GET' && isRepeatable(operation.method) && parametersOf(operation).length === 0,
  )
  const request = harmless ? requestOf(harmless, {}) : { method: 'GET' as const, target: '', headers: {}, body: null }
  const what = harmless ? callText({ operation: harmless.name, given: {} }) : 'the base address'
  const caller = new Caller({ ...settings, atOnce: 1 }, signInOf(settings, security), wire)
  try {
    const { status, body, ms } = await caller.call(request, { signal })
    yield sound(
      'answer',
      `${what}: status ${status}, ${statusText(status)}, ${formOf(body)}, ${body.length.toLocaleString('en-GB')} bytes`,
      ms,
    )
  } catch (error) {
    const { why, status } = error as CallFailure
    // few services say anything at their base; that one answers at all is what is to be known
    if (!harmless && status !== null && status !== 401 && status !== 403)
      yield sound('answer', `${what}: status ${status}, ${statusText(status)}; it answers`, null)
    else yield failed('answer', why, null)
  } finally {
    await caller.close()
  }
}
