import type { Fault } from '#core/faults/catalogue'
import { fault } from '#core/faults/catalogue'
import type { PointDefinition } from '#core/links/protocol'
import { holdsBits, maxOffset } from '#core/modbus/address'
import { pointOf } from '#core/modbus/point'
import { answerMsOf, isBroadcast, type ModbusSettings } from '#core/modbus/settings'
import type { Request } from '#core/modbus/pdu'
import { duration } from '#core/text/duration'
import type { ValueOrigin } from '#shared/values'
import type { Wire } from '../../wire/wire'
import { ModbusConnection, type Outcome } from './connection'
import { placeOf, readingRows, readingsFrom, stagesFrom } from './origin'
import { decoderOf, readFunction, type PolledPoint } from './readBlock'
import { failureOf } from './writing'

/** Enough words for a text, for every number, and for the point alone: fewer where the device has no more. */
const wordsForReadings = [12, 4, 1]

type Ask = (unit: number, request: Request) => Promise<Outcome>

/** Reads one point once, over a connection of its own, and tells how its value comes about. */
export const tryReadModbus = async (settings: ModbusSettings, definition: PointDefinition, wire: Wire): Promise<ValueOrigin> => {
  const { host, port, localAddress, patience, way } = settings
  try {
    const options = { host, port, localAddress, connectMs: patience.connect, way }
    const connection = await ModbusConnection.open(wire, options, { late: 0, foreign: 0 }, () => {})
    try {
      return await tryOver(settings, definition, (unit, request) => connection.send(unit, request, answerMsOf(settings, unit)))
    } finally {
      connection.close()
    }
  } catch (why) {
    return failed(why as Fault, definition.address)
  }
}

/** The same over a connection that is there. */
export const tryOver = async (settings: ModbusSettings, definition: PointDefinition, ask: Ask): Promise<ValueOrigin> => {
  const placed = pointOf(definition, settings)
  if (!placed) return failed(fault('entry.unreadable', { problem: `the address ${definition.address}` }), definition.address)
  const point: PolledPoint = {
    ...placed,
    handle: -1,
    path: definition.address,
    decode: decoderOf(placed.table, placed.layout),
    scaling: null,
    chosenOdd: {},
    odd: null,
    interval: 0,
  }
  return isBroadcast(settings, placed.unit)
    ? failed(fault('modbus.broadcast-read', {}), placeOf(point))
    : readOnce(ask, placed.unit, point, settings)
}

const readOnce = async (ask: Ask, unit: number, point: PolledPoint, settings: ModbusSettings): Promise<ValueOrigin> => {
  const outcome = await readAsMuch(ask, unit, point, settings)
  if (outcome.kind !== 'reply')
    return failed(
      failureOf(outcome, { unit, answerMs: answerMsOf(settings, unit), laneFault: null, link: settings.host }).fault,
      placeOf(point),
    )
  const bytes = 'data' in outcome.reply ? outcome.reply.data : Buffer.alloc(0)
  return {
    stages: stagesFrom(point, bytes, 0, point.decode(bytes, 0), { detail: `read once, ${duration(outcome.ms)}, reply at`, at: outcome.at }),
    readings: holdsBits(point.table) ? [] : readingRows(point, bytes),
    wordsFrom: readingsFrom(point, bytes),
    goesTo: [],
    fault: null,
  }
}

const readAsMuch = async (ask: Ask, unit: number, { table, offset, count }: PolledPoint, { holes }: ModbusSettings) => {
  const ahead = holes.filter((hole) => hole.table === table && (hole.unit === null || hole.unit === unit) && hole.to >= offset)
  // what is read besides the point touches nothing that no request may touch
  const most = Math.max(count, Math.min(maxOffset + 1, ...ahead.map(({ from }) => from)) - offset)
  const counts = holdsBits(table) ? [1] : [...new Set(wordsForReadings.map((words) => Math.min(Math.max(count, words), most)))]
  for (const wanted of counts) {
    const outcome = await ask(unit, { fc: readFunction[table], offset, count: wanted })
    if (outcome.kind !== 'exception' || wanted === counts.at(-1)) return outcome
  }
  throw new Error('nothing to read')
}

const failed = (why: Fault, wordsFrom: string): ValueOrigin => ({ stages: [], readings: [], wordsFrom, goesTo: [], fault: why })
