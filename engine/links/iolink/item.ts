import { fault, type Fault } from '#core/faults/catalogue'
import { pointOf, valueIn, type SensorPoint } from '#core/iolink/point'
import { oddJudge, type OddJudge } from '#core/tags/odd'
import { quality } from '#core/tags/quality'
import { isWide } from '#core/tags/types'
import { deliver } from '../../table/deliver'
import type { SampleSink } from '../../table/intake'
import type { Point } from '../driver'

/** A tag as its port has it. */
export interface Target {
  point: Point
  placed: SensorPoint
  odd: OddJudge | null
  /** Why what came last was no value of it. */
  problem: Fault | null
}

/** Null where the address cannot be read. */
export const targetOf = (point: Point): Target | null => {
  const placed = pointOf(point)
  return placed && { point, placed, odd: oddJudge(point.type, point.odd), problem: null }
}

/** Bytes that came from a device, as a whole. */
export interface Image {
  bytes: Uint8Array
  at: number
  ms: number
}

/** Takes the value of a target out of bytes that came. @returns whether there was one */
export const takeFrom = (target: Target, { bytes, at }: Image, into: SampleSink): boolean => {
  const { point, placed } = target
  const raw = valueIn(placed, bytes)
  const problem = raw === undefined ? fault('iolink.short', { address: point.address, bytes: bytes.length }) : widthProblem(target, bytes)
  target.problem = problem
  if (problem || raw === undefined) {
    into.degrade(point.handle, raw === undefined ? quality.BadIndexRangeNoData : quality.BadTypeMismatch, at)
    into.confirm(point.handle, at)
    return false
  }
  deliver(into, point, target.odd, isWide(point.type) && typeof raw === 'number' ? BigInt(raw) : raw, quality.Good, at, at)
  return true
}

const widest = { bool: 8, float: 32, int8: 8, uint8: 8, int16: 16, uint16: 16, int32: 32, uint32: 32, int64: 64, uint64: 64 } as const

/** A parameter is as long as it comes; a number of another width would be another number. */
const widthProblem = ({ point: { type, address }, placed }: Target, bytes: Uint8Array): Fault | null => {
  if (!('bits' in placed.address) || placed.address.bits > 0 || type === 'string') return null
  const bits = 8 * bytes.length
  const most = type === 'float32' ? widest.float : (widest[type as keyof typeof widest] ?? 0)
  const fits = type === 'float32' ? bits === most : bits <= most
  return fits ? null : fault('iolink.type', { address, type, problem: `the device sends ${bytes.length} bytes` })
}
