import { decoderFor } from '#core/isotcp/decoding'
import { pointOf } from '#core/isotcp/point'
import type { IsoTcpSettings } from '#core/isotcp/settings'
import type { PointDefinition } from '#core/links/protocol'
import { oddJudge, unreadableIsBad } from '#core/tags/odd'
import type { Point } from '../driver'
import type { IsoPolled } from './pieceBlock'

/** A point as it is polled; null where its address cannot be read. */
export const polledPoint = (point: Point, settings: Pick<IsoTcpSettings, 'order' | 'interval'>): IsoPolled | null => {
  const placed = pointOf(point, settings)
  if (!placed) return null
  const { layout } = placed
  const judge = oddJudge(point.type, point.odd)
  const mayBeUnreadable = layout.type === 'datetime' || layout.form === 'timer' || layout.form === 'digits'
  return {
    ...placed,
    ...{ handle: point.handle, path: point.path, scaling: point.scaling, chosenOdd: point.odd },
    decode: decoderFor(layout),
    odd: mayBeUnreadable ? unreadableIsBad(judge) : judge,
    interval: point.interval ?? settings.interval,
    ...(point.onRequest ? { onRequest: true as const } : {}),
  }
}

/** The same for an address that is no tag yet. */
export const polledOnce = (definition: PointDefinition, settings: Pick<IsoTcpSettings, 'order' | 'interval'>): IsoPolled | null => {
  const odd = { nan: 'pass' as const, infinite: 'pass' as const, denormal: 'pass' as const, codes: [] }
  return polledPoint({ ...definition, handle: -1, path: definition.address, interval: 0, scaling: null, odd }, settings)
}

/** Whether the same bytes are read in the same way. */
export const isSameSpot = (a: IsoPolled, b: IsoPolled) =>
  a.row.key === b.row.key && a.offset === b.offset && JSON.stringify(a.layout) === JSON.stringify(b.layout)

export const isSamePoint = (a: IsoPolled, b: IsoPolled) =>
  isSameSpot(a, b) &&
  a.path === b.path &&
  a.interval === b.interval &&
  JSON.stringify([a.scaling, a.chosenOdd]) === JSON.stringify([b.scaling, b.chosenOdd])
