import type { Fault } from '#core/faults/catalogue'
import { fault } from '#core/faults/catalogue'
import type { PointDefinition } from '#core/links/protocol'
import { holdsBits, maxOffset } from '#core/modbus/address'
import { pointOf } from '#core/modbus/point'
import type { ModbusTcpSettings } from '#core/modbus/settings'
import { duration } from '#core/text/duration'
import type { ValueOrigin } from '#shared/values'
import type { Wire } from '../../wire/wire'
import { ModbusConnection } from './connection'
import { placeOf, readingRows, readingsFrom, stagesFrom } from './origin'
import { decoderOf, readFunction, type PolledPoint } from './readBlock'
import { failureOf } from './writing'

/** Enough words for a text, for every number, and for the point alone: fewer where the device has no more. */
const wordsForReadings = [12, 4, 1]

/** Reads one point once, over a connection of its own, and tells how its value comes about. */
export const tryReadModbusTcp = async (settings: ModbusTcpSettings, definition: PointDefinition, wire: Wire): Promise<ValueOrigin> => {
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
  const { host, port, localAddress, patience } = settings
  try {
    const connection = await ModbusConnection.open(
      wire,
      { host, port, localAddress, connectMs: patience.connect },
      { late: 0, foreign: 0 },
      () => {},
    )
    try {
      return await readOnce(connection, placed.unit, point, settings)
    } finally {
      connection.close()
    }
  } catch (why) {
    return failed(why as Fault, placeOf(point))
  }
}

const readOnce = async (
  connection: ModbusConnection,
  unit: number,
  point: PolledPoint,
  settings: ModbusTcpSettings,
): Promise<ValueOrigin> => {
  const outcome = await readAsMuch(connection, unit, point, settings)
  if (outcome.kind !== 'reply')
    return failed(
      failureOf(outcome, { unit, answerMs: settings.patience.answer, laneFault: null, link: settings.host }).fault,
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

const readAsMuch = async (
  connection: ModbusConnection,
  unit: number,
  { table, offset, count }: PolledPoint,
  { patience, holes }: ModbusTcpSettings,
) => {
  const ahead = holes.filter((hole) => hole.table === table && (hole.unit === null || hole.unit === unit) && hole.to >= offset)
  // what is read besides the point touches nothing that no request may touch
  const most = Math.max(count, Math.min(maxOffset + 1, ...ahead.map(({ from }) => from)) - offset)
  const counts = holdsBits(table) ? [1] : [...new Set(wordsForReadings.map((words) => Math.min(Math.max(count, words), most)))]
  for (const wanted of counts) {
    const outcome = await connection.send(unit, { fc: readFunction[table], offset, count: wanted }, patience.answer)
    if (outcome.kind !== 'exception' || wanted === counts.at(-1)) return outcome
  }
  throw new Error('nothing to read')
}

const failed = (why: Fault, wordsFrom: string): ValueOrigin => ({ stages: [], readings: [], wordsFrom, goesTo: [], fault: why })
