import { lookup } from 'node:dns/promises'
import { isIP } from 'node:net'
import { fault, type Fault } from '#core/faults/catalogue'
import { tcpFault } from '#core/faults/tcp'
import { exceptionMeaning } from '#core/modbus/exceptions'
import type { ModbusTcpSettings } from '#core/modbus/settings'
import type { CheckStep } from '#shared/status'
import { ModbusConnection, type Outcome, type StrayCounts } from './connection'

const titles = { name: 'Name', port: 'Port', reply: 'First reply' } as const
type StepName = keyof typeof titles
const order: StepName[] = ['name', 'port', 'reply']

/** Name, port, first reply: each with its time and what was seen. Stops at the step that fails. */
export async function* checkModbusTcp(settings: ModbusTcpSettings, signal: AbortSignal): AsyncGenerator<CheckStep> {
  yield waiting('name')
  const name = await resolveName(settings)
  yield name.step
  if (!name.address || signal.aborted) return yield* notReached('name')

  yield waiting('port')
  const started = performance.now()
  const strays: StrayCounts = { late: 0, foreign: 0 }
  let connection: ModbusConnection
  try {
    const options = { host: name.address, port: settings.port, localAddress: settings.localAddress, connectMs: settings.patience.connect }
    connection = await ModbusConnection.open(options, strays, () => {})
  } catch (why) {
    yield failed('port', why as Fault, performance.now() - started)
    return yield* notReached('port')
  }
  signal.addEventListener('abort', () => connection.close(), { once: true })
  try {
    yield sound('port', `TCP ${settings.port} open`, performance.now() - started)
    if (signal.aborted) return
    yield waiting('reply')
    yield replyStep(await connection.send(settings.unit, { fc: 3, offset: 0, count: 1 }, settings.patience.answer), settings, strays)
  } finally {
    connection.close()
  }
}

const resolveName = async (settings: ModbusTcpSettings): Promise<{ address: string | null; step: CheckStep }> => {
  const started = performance.now()
  if (isIP(settings.host)) return { address: settings.host, step: sound('name', `${settings.host}, numeric already`, 0) }
  try {
    const { address } = await withTimeout(lookup(settings.host), settings.patience.connect)
    return { address, step: sound('name', `${settings.host} is ${address}`, performance.now() - started) }
  } catch (error) {
    const why = tcpFault(
      Object.assign(error as Error, { code: (error as { code?: string }).code ?? 'EAI_AGAIN' }),
      settings.host,
      settings.port,
    )
    return { address: null, step: failed('name', why, performance.now() - started) }
  }
}

const withTimeout = <T>(work: Promise<T>, ms: number): Promise<T> => {
  let timer: NodeJS.Timeout
  const late = new Promise<never>((_, reject) => (timer = setTimeout(() => reject(new Error(`no answer within ${ms} ms`)), ms)))
  return Promise.race([work, late]).finally(() => clearTimeout(timer))
}

/** An exception is a reply, too: the unit is there and speaks Modbus. */
const replyStep = (outcome: Outcome, settings: ModbusTcpSettings, strays: StrayCounts): CheckStep => {
  const { unit, host, port } = settings
  switch (outcome.kind) {
    case 'reply':
      return sound(
        'reply',
        `unit ${unit} answered; holding/0 is ${'data' in outcome.reply ? outcome.reply.data.readUInt16BE(0) : ''}`,
        outcome.ms,
      )
    case 'exception':
      return exceptionStep(outcome.code, unit, outcome.ms)
    case 'silent': {
      const stray =
        strays.foreign > 0 ? `${strays.foreign} replies with a foreign transaction id or unit` : 'connection open, no bytes came back'
      return failed('reply', fault('modbus.silent', { unit, ms: settings.patience.answer }, stray), outcome.ms)
    }
    case 'malformed':
      return failed('reply', fault('modbus.malformed', { unit, problem: outcome.problem }), null)
    case 'closed':
      return failed('reply', fault('tcp.closed', { host, port }, 'closed right after our request'), null)
  }
}

const exceptionStep = (code: number, unit: number, ms: number): CheckStep => {
  const { name, words, next } = exceptionMeaning(code)
  if (code < 10) return sound('reply', `unit ${unit} answered with exception ${code}, ${name}: it is there, and has no holding/0`, ms)
  return failed('reply', fault('modbus.exception', { unit, code, name, words, next }), ms)
}

const sound = (step: StepName, evidence: string, ms: number): CheckStep => ({
  step,
  title: titles[step],
  flow: 'flowing',
  evidence,
  ms,
  fault: null,
})
const waiting = (step: StepName): CheckStep => ({ step, title: titles[step], flow: 'waiting', evidence: '', ms: null, fault: null })
const failed = (step: StepName, why: Fault, ms: number | null): CheckStep => ({
  step,
  title: titles[step],
  flow: 'broken',
  evidence: why.evidence || why.what,
  ms,
  fault: why,
})

function* notReached(after: StepName): Generator<CheckStep> {
  for (const step of order.slice(order.indexOf(after) + 1))
    yield { step, title: titles[step], flow: 'off', evidence: 'not reached', ms: null, fault: null }
}
