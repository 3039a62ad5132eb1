import { formatAddress, refText } from '#core/bacnet/address'
import type { Fault } from '#core/faults/catalogue'
import { counted } from '#core/text/counted'
import { duration } from '#core/text/duration'
import type { RefusedPoint, UnitStatus } from '#shared/status'
import type { PointFinding } from '../driver'
import type { Item } from './item'
import type { Lane } from './lane'
import type { Rounds } from './rounds'

/** What is told of a device. */
export interface Told {
  instance: number
  lane: Lane
  rounds: Rounds
  items: readonly Item[]
  /** Answers at the port that belonged to nobody. */
  strays: { late: number; foreign: number }
  /** How many requests may be under way at once. */
  parallel: number
  /** How it is read, in words. */
  wayText: string
}

const mostRefusedShown = 20

export const statusOf = (told: Told, name: string): UnitStatus => {
  const { instance, lane, rounds, strays, parallel } = told
  const refused = refusedOf(told)
  return {
    ...{ unit: String(instance), title: `Device ${instance}${name ? ` · ${name}` : ''}` },
    ...stateOf(told),
    ...{ answerMs: lane.answerMs, requests: lane.requests, failures: lane.failures },
    ...{ lateReplies: strays.late, foreignReplies: strays.foreign },
    rounds: rounds.inOrder.map(({ interval, requests, measuredMs }) => ({
      ...{ interval, measuredMs, requests: requests.length, points: tagsIn(requests.flat()) },
      predictedMs: lane.answerMs === null ? null : (requests.length * lane.answerMs) / parallel,
    })),
    ...{ leftOutUntil: lane.nextTry, lastFault: faultOf(told) },
    ...{ refused: refused.slice(0, mostRefusedShown), refusedCount: refused.length },
  }
}

/** The first thing that is wrong with it; null: nothing is. */
const faultOf = ({ lane, items }: Told): Fault | null =>
  lane.fault ?? items.find(({ noticeFault, phase }) => noticeFault && phase === 'lost')?.noticeFault ?? null

const stateOf = (told: Told): Pick<UnitStatus, 'flow' | 'sentence'> => {
  const { lane, rounds } = told
  if (!lane.located) return lane.fault ? { flow: 'broken', sentence: lane.fault.what } : { flow: 'late', sentence: 'Looking for it' }
  if (lane.silentInARow > 0) return { flow: 'late', sentence: `${counted(lane.silentInARow, 'request')} without an answer` }
  const why = faultOf(told)
  if (why) return { flow: 'late', sentence: why.what }
  const [slow] = rounds.slow
  if (slow) return { flow: 'late', sentence: `A round takes ${duration(slow.measuredMs)}, its tags ask for every ${duration(slow.interval)}` } // prettier-ignore
  return { flow: 'flowing', sentence: steadyText(told) }
}

const steadyText = ({ items, wayText }: Told): string => {
  const told = items.filter(({ phase }) => phase === 'notified')
  const polled = items.filter(({ isPolled }) => isPolled)
  const words = [
    ...(told.length > 0 ? [`${counted(tagsIn(told), 'tag')} told of`] : []),
    ...(polled.length > 0 ? [`${counted(tagsIn(polled), 'tag')} polled, ${wayText}`] : []),
  ]
  return words.join(' · ') || 'There, no tags yet'
}

const tagsIn = (items: readonly Item[]) =>
  items.reduce((total, { targets }) => total + targets.filter(({ point }) => !point.onRequest).length, 0)

/** What the device refuses. */
const refusedOf = ({ instance, items }: Told): RefusedPoint[] =>
  items.flatMap(({ fault: why, restUntil, ref, targets }) =>
    why && restUntil > 0
      ? targets
          .filter(({ point }) => !point.onRequest)
          .map(({ point }) => ({ path: point.path, address: formatAddress({ device: instance, ...ref }), why: why.what }))
      : [],
  )

/** What is to be said of its tags: refused, not told of, or not as often as they want. */
export const findingsOf = ({ items, rounds }: Pick<Told, 'items' | 'rounds'>): PointFinding[] => [
  ...items.flatMap(({ targets, fault: why, restUntil, noticeFault }): PointFinding[] => [
    ...(why && restUntil > 0 ? targets.map(({ point }) => ({ handle: point.handle, kind: 'refused' as const, text: why.what })) : []),
    ...(noticeFault ? targets.map(({ point }) => ({ handle: point.handle, kind: 'unnotified' as const, text: noticeFault.what })) : []),
  ]),
  ...rounds.slow.flatMap(({ requests, measuredMs, interval }) => {
    const text = `is read every ${duration(measuredMs)} and not every ${duration(interval)}: that is how long its round takes`
    return requests.flat().flatMap(({ handles }) => handles.map((handle) => ({ handle, kind: 'interval' as const, text })))
  }),
]

/** Items by their addresses, the first of them. */
export const nameOf = (items: readonly Item[]) => {
  const names = items.slice(0, 3).map(({ ref }) => refText(ref))
  return names.join(', ') + (items.length > names.length ? ` and ${items.length - names.length} more` : '')
}
