import type { Fault } from '#core/faults/catalogue'
import { valueIn, type SensorPoint } from '#core/iolink/point'
import { stateWords } from '#core/iolink/states'
import type { OddJudge } from '#core/tags/odd'
import type { Scaling } from '#core/tags/scaling'
import type { DataType } from '#core/tags/types'
import { duration } from '#core/text/duration'
import { valueText } from '#core/text/number'
import type { ValueOrigin, ValueStage } from '#shared/values'
import type { SampleSink } from '../../table/intake'
import { madeStages, passedStage } from '../stages'
import type { Image, Target } from './item'
import { parameterKey } from './parameterRead'
import type { SensorPort } from './port'

/** Tells how a value is made: from the bytes that came last to what consumers get. */
export const originOf = (port: SensorPort, target: Target, away: Fault | null, table: SampleSink): ValueOrigin => {
  const { point, placed } = target
  const base = { readings: [], wordsFrom: point.address, goesTo: [], fault: away ?? port.fault ?? target.problem }
  const passed = () => passedStage(point.handle, point.type, point.scaling, table)
  if (placed.address.of === 'state') {
    const { state, at } = port.seen ?? {}
    const told: ValueStage = {
      title: 'The master says',
      text: state ?? 'nothing yet',
      detail: state ? `${stateWords(state)}; looked at` : '',
    }
    return { ...base, stages: state ? [{ ...told, at }, passed()] : [told] }
  }
  if (placed.address.of === 'events') {
    const { last, fault: untold } = port.events
    if (untold) return { ...base, fault: base.fault ?? untold, stages: [] }
    const told = last ? `${last.code} ${last.text}, ${last.mode.toLowerCase()}, ${last.time}` : 'no event so far'
    return { ...base, stages: [{ title: 'Reported last', text: told, detail: '' }, passed()] }
  }
  const image = imageFor(port, target)
  if (!image) return { ...base, stages: [{ title: 'Sent by the device', text: 'nothing that counts', detail: '' }] }
  return { ...base, stages: [...stagesFrom(image, placed, point.type, { scaling: point.scaling, odd: target.odd }), passed()] }
}

const imageFor = (port: SensorPort, { placed: { address } }: Target): Image | null => {
  if (address.of === 'in') return port.input
  if (address.of === 'out') return port.output
  return address.of === 'parameter' ? (port.parameters.get(parameterKey(address))?.image ?? null) : null
}

const mostShown = 64

/** The stages that need only what was sent; also used for an address that is not a tag yet. */
export const stagesFrom = (
  { bytes, at, ms }: Image,
  placed: SensorPoint,
  type: DataType,
  making: { scaling: Scaling | null; odd: OddJudge | null },
): ValueStage[] => {
  const shown = Buffer.from(bytes.subarray(0, mostShown))
    .toString('hex')
    .replace(/(..)(?=.)/g, '$1 ')
  const sent: ValueStage = {
    title: 'Sent by the device',
    text: bytes.length > mostShown ? `${shown} …` : shown,
    detail: `${bytes.length} bytes, read in ${duration(ms)}, answer at`,
    at,
  }
  const raw = valueIn(placed, bytes)
  const { address } = placed
  const bits = 'bits' in address && address.bits > 0 ? `${address.bits} bits from bit ${address.bitOffset} on` : 'all of it'
  if (raw === undefined) return [sent, { title: `Read as ${type}`, text: 'nothing', detail: `${bits}: more than came` }]
  return [sent, { title: `Read as ${type}`, text: valueText(raw, type), detail: bits }, ...madeStages(making, raw)]
}
