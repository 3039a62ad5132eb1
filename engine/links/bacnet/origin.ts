import { formatAddress, refText } from '#core/bacnet/address'
import { appText, toTag } from '#core/bacnet/conversion'
import { flagsText, qualityBy, type StatusFlags } from '#core/bacnet/statusFlags'
import type { AppValue } from '#core/bacnet/appValue'
import type { OddJudge } from '#core/tags/odd'
import { qualityText } from '#core/tags/quality'
import type { Scaling } from '#core/tags/scaling'
import type { DataType } from '#core/tags/types'
import { duration } from '#core/text/duration'
import { valueText } from '#core/text/number'
import type { ValueOrigin, ValueStage } from '#shared/values'
import type { SampleSink } from '../../table/intake'
import { madeStages, passedStage } from '../stages'
import type { Item, Phase, Target } from './item'

const phases: Record<Phase, string> = {
  off: 'polled',
  wanted: 'polled; a subscription is being asked for',
  taken: 'polled; the subscription was taken, its first notification is awaited',
  notified: 'the device tells changes',
  lost: 'polled: notifications do not arrive',
  refused: 'polled: the device takes no subscription',
}

/** Tells how a value is made: from what the device sent last to what consumers get. */
export const originOf = (
  device: number,
  item: Item,
  { point, odd }: Target,
  laneFault: ValueOrigin['fault'],
  table: SampleSink,
): ValueOrigin => {
  const place = formatAddress({ device, ...item.ref })
  const base = { readings: [], wordsFrom: place, goesTo: [], fault: laneFault ?? item.fault ?? item.noticeFault }
  if (!item.last)
    return {
      ...base,
      stages: [{ title: 'Sent by the device', text: 'nothing yet', detail: `${refText(item.ref)}, ${phases[item.phase]}` }],
    }
  const { values, flags, at, ms } = item.last
  const way = ms === null ? 'notified at' : `read in ${duration(ms)}, answer at`
  return {
    ...base,
    stages: [
      ...stagesFrom({ values, flags }, point.type, { scaling: point.scaling, odd }, { detail: `${phases[item.phase]}; ${way}`, at }),
      passedStage(point.handle, point.type, point.scaling, table),
    ],
  }
}

const mostShown = 200

/** The stages that need only what was sent; also used for an address that is not a tag yet. */
export const stagesFrom = (
  { values, flags }: { values: readonly AppValue[]; flags: StatusFlags | null },
  type: DataType,
  { scaling, odd }: { scaling: Scaling | null; odd: OddJudge | null },
  from: Pick<ValueStage, 'detail' | 'at'>,
): ValueStage[] => {
  const sent = values.map((value) => `${value.tag} ${appText(value)}`).join(', ')
  const converted = toTag(values, type)
  const stages: ValueStage[] = [
    { title: 'Sent by the device', text: sent.length > mostShown ? `${sent.slice(0, mostShown)} …` : sent, ...from },
    {
      title: `Read as ${type}`,
      text: converted.ok ? valueText(converted.value, type) : converted.text,
      detail: converted.ok ? '' : 'no value of this type',
    },
  ]
  if (flags) stages.push({ title: 'Status flags', text: flagsText(flags), detail: `so it is ${qualityText(qualityBy(flags))}` })
  return converted.ok ? [...stages, ...madeStages({ scaling, odd }, converted.value)] : stages
}
