import { fault, isFault, type Fault } from '#core/faults/catalogue'
import { codeText, itemMeaning } from '#core/isotcp/codes'
import { bytesIn, planRequests } from '#core/isotcp/planning'
import type { IsoTcpSettings } from '#core/isotcp/settings'
import type { PointDefinition } from '#core/links/protocol'
import { duration } from '#core/text/duration'
import type { ValueOrigin } from '#shared/values'
import type { Wire } from '../../wire/wire'
import { ControllerConnection, problemOf } from './connection'
import { stagesFrom } from './origin'
import { pieceOf, placeOf } from './pieceBlock'
import { polledOnce } from './polled'
import { readCall, requestFault } from './poller'

/** Reads one point once, over a connection of its own, and tells how its value comes about. */
export const tryReadIsoTcp = async (settings: IsoTcpSettings, definition: PointDefinition, wire: Wire): Promise<ValueOrigin> => {
  const point = polledOnce(definition, settings)
  if (!point) return failed(fault('entry.unreadable', { problem: `the address ${definition.address}` }), definition.address)
  const place = placeOf(point)
  let connection: ControllerConnection | null = null
  try {
    connection = await ControllerConnection.open(wire, settings, () => {})
    const requests = planRequests([point], { size: connection.granted.size, readAcross: 0, fences: () => [] })
    const whole = Buffer.alloc(bytesIn(point))
    let ms = 0
    for (const part of requests.flat()) {
      const outcome = await connection.send(readCall([pieceOf(part)]), settings.patience.answer)
      if (outcome.kind === 'refused') return failed(requestFault(outcome.code), place)
      if (outcome.kind !== 'done') return failed(nothing(settings, problemOf(outcome, settings.patience.answer), outcome.kind), place)
      const answer = outcome.value[0]!
      if (!answer.ok) return failed(fault('iso.piece', { place, code: codeText(answer.code), ...itemMeaning(answer.code) }), place)
      answer.data.copy(whole, part.from)
      ms += outcome.ms
    }
    const from = { detail: `read once, ${duration(ms)}, answer at`, at: Date.now() }
    return { stages: stagesFrom(point, whole, 0, point.decode(whole, 0), from), readings: [], wordsFrom: place, goesTo: [], fault: null }
  } catch (why) {
    return failed(isFault(why) ? why : fault('ours.unexpected', { problem: String(why) }), place)
  } finally {
    connection?.close()
  }
}

const nothing = ({ host, port, patience }: IsoTcpSettings, problem: string, kind: string): Fault =>
  kind === 'silent' ? fault('iso.silent', { host, port, ms: patience.answer }) : fault('iso.malformed', { host, port, problem })

const failed = (why: Fault, wordsFrom: string): ValueOrigin => ({ stages: [], readings: [], wordsFrom, goesTo: [], fault: why })
