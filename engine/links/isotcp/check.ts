import { fault, isFault, type Fault } from '#core/faults/catalogue'
import { codeText, itemMeaning } from '#core/isotcp/codes'
import type { Negotiated, Piece, PieceAnswer } from '#core/isotcp/pdu'
import type { IsoTcpSettings } from '#core/isotcp/settings'
import { tsapText } from '#core/isotcp/tsap'
import { placeText } from '#core/isotcp/way'
import { rowOf } from '#core/isotcp/point'
import { counted } from '#core/text/counted'
import type { CheckStep } from '#shared/status'
import { resolveName } from '../../wire/resolveName'
import { checkSteps } from '../checkSteps'
import type { CheckContext } from '../driver'
import { ControllerConnection, problemOf, type Call, type Outcome } from './connection'
import { placeOf } from './pieceBlock'
import { readCall, requestFault } from './poller'

const { waiting, sound, failed, notReached } = checkSteps({
  name: 'Name',
  port: 'Port',
  place: 'Transport connection',
  size: 'Size of requests',
  read: 'First read',
})

/** The first flag byte: every controller has one. */
const anywhere: Piece = { area: 'flag', block: 0, offset: 0, bit: null, count: 1 }

/** Name, port, transport connection, negotiation, a read: each with its time and what was seen. Stops at the step that fails. */
export async function* checkIsoTcp(
  settings: IsoTcpSettings,
  signal: AbortSignal,
  { wire }: Pick<CheckContext, 'wire'>,
): AsyncGenerator<CheckStep> {
  const { host, port, localAddress, patience, way } = settings
  yield waiting('name')
  const name = await resolveName(host, port, patience.connect)
  if ('fault' in name) {
    yield failed('name', name.fault, name.ms)
    return yield* notReached('name')
  }
  yield sound('name', name.evidence, name.ms)
  if (signal.aborted) return

  yield waiting('port')
  let started = performance.now()
  const passed = () => performance.now() - started
  let connection: ControllerConnection
  try {
    connection = new ControllerConnection(
      await wire.dial({ host: name.address, port, localAddress, connectMs: patience.connect }),
      settings,
    )
  } catch (why) {
    yield failed('port', asFault(why), passed())
    return yield* notReached('port')
  }
  signal.addEventListener('abort', () => connection.close(), { once: true })
  let step: 'place' | 'size' = 'place'
  try {
    yield sound('port', `TCP ${port} open`, passed())
    yield waiting('place')
    started = performance.now()
    const { theirs } = await connection.attach()
    yield sound('place', `taken at ${placeText(way)}${theirs ? `, TSAP ${tsapText(theirs)}` : ''}`, passed())
    step = 'size'
    yield waiting('size')
    started = performance.now()
    yield sound('size', grantedText(await connection.negotiate(), settings), passed())
    yield waiting('read')
    yield readStep(await connection.send(readCall([anywhere]), patience.answer), anywhere, settings)
  } catch (why) {
    if (signal.aborted) return
    yield failed(step, asFault(why), passed())
    yield* notReached(step)
  } finally {
    connection.close()
  }
}

/** One byte of each block that tags read, over the connection that the link holds. */
export async function* checkConnected(
  settings: IsoTcpSettings,
  { size, parallel, connections }: Negotiated & { connections: number },
  places: readonly Piece[],
  read: (call: Call<PieceAnswer[]>) => Promise<Outcome<PieceAnswer[]>>,
): AsyncGenerator<CheckStep> {
  yield sound('name', `the link is connected to ${settings.host}:${settings.port}`, null)
  yield sound('port', 'open; looked at over the connections of the link, which go on', null)
  yield sound('place', `${counted(connections, 'connection')} at ${placeText(settings.way)}`, null)
  yield sound('size', grantedText({ size, parallel }, settings), null)
  yield waiting('read')
  let seen = 0
  for (const piece of places.length > 0 ? places : [anywhere]) {
    const step = readStep(await read(readCall([piece])), piece, settings)
    if (step.flow === 'broken') return yield step
    seen++
  }
  yield sound(
    'read',
    places.length === 0 ? 'it answered' : `${counted(seen, 'block or area', 'blocks and areas')} that tags read can be read`,
    null,
  )
}

const grantedText = ({ size, parallel }: Negotiated, { requests }: IsoTcpSettings) =>
  `${size} bytes${size < requests.size ? ` of the ${requests.size} that were asked for` : ''}, ${counted(parallel, 'request')} under way at once`

/** That the place of a check is not there is an answer, too: the controller is there and speaks the protocol. */
const readStep = (outcome: Outcome<PieceAnswer[]>, piece: Piece, { host, port, patience }: IsoTcpSettings): CheckStep => {
  const place = placeOf({ row: rowOf(piece), offset: piece.offset, count: piece.count })
  if (outcome.kind === 'done') {
    const answer = outcome.value[0]!
    if (answer.ok) return sound('read', `${place} is ${answer.data[0]}`, outcome.ms)
    const { words, next } = itemMeaning(answer.code)
    const why = fault('iso.piece', { place, code: codeText(answer.code), words, next })
    return piece === anywhere ? sound('read', `it answered: ${why.what}`, outcome.ms) : failed('read', why, outcome.ms)
  }
  if (outcome.kind === 'refused') return failed('read', requestFault(outcome.code), outcome.ms)
  if (outcome.kind === 'silent') return failed('read', fault('iso.silent', { host, port, ms: patience.answer }), outcome.ms)
  return failed('read', fault('iso.malformed', { host, port, problem: problemOf(outcome, patience.answer) }), null)
}

const asFault = (why: unknown): Fault => (isFault(why) ? why : fault('ours.unexpected', { problem: String(why) }))
