import { fault, type Fault } from '#core/faults/catalogue'
import { exceptionMeaning } from '#core/modbus/exceptions'
import { answerMsOf, type ModbusSettings } from '#core/modbus/settings'
import { serialText, type SerialPortSettings } from '#core/contracts/serial'
import type { CheckStep } from '#shared/status'
import type { CheckContext } from '../driver'
import { checkSteps } from '../checkSteps'
import { resolveName } from '../../wire/resolveName'
import { malformedFault, ModbusConnection, type Outcome, type StrayCounts } from './connection'
import { silenceFault } from './writing'

const { waiting, sound, failed, notReached } = checkSteps({ name: 'Name', port: 'Port', reply: 'First reply' })

/** Name, port, first reply: each with its time and what was seen. Stops at the step that fails. */
export const checkModbus = (settings: ModbusSettings, signal: AbortSignal, around: Around): AsyncGenerator<CheckStep> =>
  settings.way?.serial ? checkSerial(settings, settings.way.serial, signal, around) : checkOverTcp(settings, signal, around)

type Around = Pick<CheckContext, 'wire' | 'beside'>

async function* checkOverTcp(settings: ModbusSettings, signal: AbortSignal, { wire, beside }: Around): AsyncGenerator<CheckStep> {
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
    const options = {
      host: name.address,
      port: settings.port,
      localAddress: settings.localAddress,
      connectMs: settings.patience.connect,
      way: settings.way,
    }
    connection = await ModbusConnection.open(wire, options, strays, () => {})
  } catch (why) {
    yield failed('port', why as Fault, performance.now() - started)
    return yield* notReached('port')
  }
  signal.addEventListener('abort', () => connection.close(), { once: true })
  try {
    yield sound('port', `TCP ${settings.port} open`, performance.now() - started)
    if (signal.aborted) return
    yield waiting('reply')
    const outcome = await connection.send(settings.unit, { fc: 3, offset: 0, count: 1 }, answerMsOf(settings, settings.unit))
    yield replyStep(outcome, settings, connection.why, beside)
  } finally {
    connection.close()
  }
}

const { waiting: opening, sound: opened, failed: notOpened, notReached: none } = checkSteps({ port: 'Serial port', reply: 'First reply' })

/** The port of this machine, and the first reply. */
async function* checkSerial(
  settings: ModbusSettings,
  serial: SerialPortSettings,
  signal: AbortSignal,
  { wire, beside }: Around,
): AsyncGenerator<CheckStep> {
  yield opening('port')
  const started = performance.now()
  let connection: ModbusConnection
  try {
    const { host, port, localAddress, patience, way } = settings
    connection = await ModbusConnection.open(
      wire,
      { host, port, localAddress, connectMs: patience.connect, way },
      { late: 0, foreign: 0 },
      () => {},
    )
  } catch (why) {
    yield notOpened('port', why as Fault, performance.now() - started)
    return yield* none('port')
  }
  signal.addEventListener('abort', () => connection.close(), { once: true })
  try {
    yield opened('port', `${serial.device} is open, ${serialText(serial)}`, performance.now() - started)
    if (signal.aborted) return
    yield opening('reply')
    yield replyStep(
      await connection.send(settings.unit, { fc: 3, offset: 0, count: 1 }, answerMsOf(settings, settings.unit)),
      settings,
      connection.why,
      beside,
    )
  } finally {
    connection.close()
  }
}

/** One reading of the first register over the connection that the link holds, for a check of the link as it is. */
export async function* checkConnected(
  settings: ModbusSettings,
  remote: string,
  read: (unit: number) => Promise<Outcome>,
): AsyncGenerator<CheckStep> {
  yield sound('name', `the link is connected to ${remote}`, null)
  yield sound('port', 'open; looked at over the connection of the link, which goes on', null)
  yield waiting('reply')
  yield replyStep(await read(settings.unit), settings, null, [])
}

/** An exception is a reply, too: the unit is there and speaks Modbus. */
const replyStep = (outcome: Outcome, settings: ModbusSettings, closedBy: Fault | null, beside: readonly string[]): CheckStep => {
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
    case 'silent':
      return failed('reply', silenceFault(unit, answerMsOf(settings, unit), outcome.came), outcome.ms)
    case 'malformed':
      return failed('reply', malformedFault({ unit, host, port }, outcome.problem, outcome.service), null)
    case 'obeyed':
    case 'expired':
    case 'closed':
      return failed('reply', closedFault(closedBy, host, port, beside), null)
  }
}

const closedFault = (closedBy: Fault | null, host: string, port: number, beside: readonly string[]): Fault => {
  if (closedBy && closedBy.code !== 'tcp.closed') return closedBy
  if (beside.length > 0) return fault('modbus.place-taken', { host, port, links: beside.map((name) => `“${name}”`).join(', ') })
  return fault('tcp.closed', { host, port }, 'closed right after our request')
}

const exceptionStep = (code: number, unit: number, ms: number): CheckStep => {
  const { name, words, next } = exceptionMeaning(code)
  if (code < 10) return sound('reply', `unit ${unit} answered with exception ${code}, ${name}: it is there, and has no holding/0`, ms)
  return failed('reply', fault('modbus.exception', { unit, code, name, words, next }), ms)
}
