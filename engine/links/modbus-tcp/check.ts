import { fault, type Fault } from '#core/faults/catalogue'
import { exceptionMeaning } from '#core/modbus/exceptions'
import type { ModbusTcpSettings } from '#core/modbus/settings'
import type { CheckStep } from '#shared/status'
import { checkSteps, resolveName } from '../checkSteps'
import { ModbusConnection, type Outcome, type StrayCounts } from './connection'

const { waiting, sound, failed, notReached } = checkSteps({ name: 'Name', port: 'Port', reply: 'First reply' })

/** Name, port, first reply: each with its time and what was seen. Stops at the step that fails. */
export async function* checkModbusTcp(settings: ModbusTcpSettings, signal: AbortSignal): AsyncGenerator<CheckStep> {
  yield waiting('name')
  const name = await resolveName(settings.host, settings.port, settings.patience.connect)
  if ('fault' in name) {
    yield failed('name', name.fault, name.ms)
    return yield* notReached('name')
  }
  yield sound('name', name.evidence, name.ms)
  if (signal.aborted) return

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
    case 'expired':
    case 'closed':
      return failed('reply', fault('tcp.closed', { host, port }, 'closed right after our request'), null)
  }
}

const exceptionStep = (code: number, unit: number, ms: number): CheckStep => {
  const { name, words, next } = exceptionMeaning(code)
  if (code < 10) return sound('reply', `unit ${unit} answered with exception ${code}, ${name}: it is there, and has no holding/0`, ms)
  return failed('reply', fault('modbus.exception', { unit, code, name, words, next }), ms)
}
