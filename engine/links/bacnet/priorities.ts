import { refText } from '#core/bacnet/address'
import { appText } from '#core/bacnet/conversion'
import { prop } from '#core/bacnet/property'
import type { PropertyRef } from '#core/bacnet/services'
import type { Priorities } from '#shared/links/priorities'
import { errorFault, outcomeFault, readOne } from './asking'
import type { Device } from './device'
import type { Item, Target } from './item'

/** Levels for which the standard names a use (ANSI/ASHRAE 135, 19.2). */
const uses: Record<number, string> = {
  1: 'manual life safety',
  2: 'automatic life safety',
  5: 'critical equipment',
  6: 'minimum on and off times',
  8: 'manual operator',
}

/** Reads who holds a value at which level. Rejects with a Fault. */
export const prioritiesOf = async (device: Device, item: Item, { placed }: Target): Promise<Priorities> => {
  const { located } = device
  if (!located) throw device.lane.fault as unknown as Error
  const ask = async (property: number) => {
    const ref: PropertyRef = { ...item.ref, property, index: null }
    const { outcome, answer } = await readOne((service, content) => device.lane.read(service, content), ref)
    const meant = { device: String(device.instance), station: located.station, what: `the priorities of ${refText(item.ref)}` }
    if (!answer) throw outcomeFault(outcome, meant) as unknown as Error
    if (!answer.ok) throw errorFault(answer.error, meant.what) as unknown as Error
    return answer.values
  }
  const levels = await ask(prop.priorityArray)
  const usual = await ask(prop.relinquishDefault).catch(() => null)
  const ours = placed.priority ?? 16
  const holds = levels.findIndex((value) => value.tag !== 'null')
  return {
    levels: levels.slice(0, 16).map((value, i) => ({
      level: i + 1,
      use: uses[i + 1] ?? '',
      text: value.tag === 'null' ? null : appText(value),
      ours: i + 1 === ours,
    })),
    usual: usual?.[0] ? appText(usual[0]) : null,
    holds: holds < 0 ? null : holds + 1,
    ours,
  }
}
