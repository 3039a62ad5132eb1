import { fault, type Fault } from '#core/faults/catalogue'
import { codeText, itemCode, itemMeaning } from '#core/isotcp/codes'
import { encodeValue } from '#core/isotcp/encoding'
import { decodeWritten, encodeWrite, roomIn, type Piece } from '#core/isotcp/pdu'
import type { IsoTcpSettings } from '#core/isotcp/settings'
import { quality } from '#core/tags/quality'
import { toRaw } from '#core/tags/scaling'
import { isArrayValue, type TagValue } from '#core/tags/types'
import type { WriteOutcome } from '../driver'
import { expired } from '../writeQueue'
import { problemOf, type Call, type Outcome } from './connection'
import { qualityOf, requestFault } from './poller'
import { placeOf, type IsoPolled } from './pieceBlock'

export interface PlacedBytes {
  piece: Piece
  bytes: Buffer
}
export type PreparedWrite = { ok: true; parts: PlacedBytes[] } | { ok: false; outcome: WriteOutcome & { ok: false } }

/** Turns a value in engineering units into what is written, or says why it cannot be. @param size bytes of a request */
export const prepareWrite = (point: IsoPolled, value: TagValue, size: number): PreparedWrite => {
  const { layout } = point
  const isArray = layout.count > 0
  if (isArray !== isArrayValue(value))
    return refuse(point, isArray ? 'an array is wanted' : 'a single value is wanted', quality.BadTypeMismatch)
  const unscaled = isArrayValue(value) ? value.map((one) => toRaw(one, layout.type, null)) : [toRaw(value, layout.type, point.scaling)]
  const wrong = unscaled.find((one) => !one.ok)
  if (wrong && !wrong.ok) return refuse(point, wrong.detail, wrong.reason === 'type' ? quality.BadTypeMismatch : quality.BadOutOfRange)
  const raw = unscaled.map((one) => (one as { raw: string | number | bigint | boolean }).raw)
  const { area, block } = point.row
  if (layout.type === 'bool')
    return {
      ok: true,
      parts: raw.map((on, i) => {
        const bit = (layout.bit ?? 0) + i
        return { piece: { area, block, offset: point.offset + (bit >> 3), bit: bit & 7, count: 1 }, bytes: Buffer.from([on ? 1 : 0]) }
      }),
    }
  try {
    const { skip, bytes } = encodeValue(isArray ? raw : raw[0]!, layout)
    return { ok: true, parts: cut(bytes, roomIn(size).write & ~1).map(([from, part]) => ({ piece: { area, block, offset: point.offset + skip + from, bit: null, count: part.length }, bytes: part })) } // prettier-ignore
  } catch (error) {
    return refuse(point, (error as Error).message, quality.BadOutOfRange)
  }
}

const cut = (bytes: Buffer, most: number): [from: number, part: Buffer][] => {
  const parts: [number, Buffer][] = []
  for (let from = 0; from < bytes.length; from += most) parts.push([from, bytes.subarray(from, from + most)])
  return parts
}

const refuse = (point: IsoPolled, problem: string, code: number): PreparedWrite => ({
  ok: false,
  outcome: { ok: false, quality: code, fault: fault('write.value', { path: point.path, problem }) },
})

/** The answer to a write is the code of its piece. */
export const writeCall = ({ piece, bytes }: PlacedBytes): Call<number> => ({
  encode: (reference) => encodeWrite(reference, piece, bytes),
  decode: decodeWritten,
})

interface Surroundings {
  settings: IsoTcpSettings
  poolFault: Fault | null
  link: string
}

/** What became of a write that was not taken; null: it was. What had left without an answer may have been taken. */
export const writeFailure = (
  { path, row, offset, count }: IsoPolled,
  outcome: Outcome<number>,
  { settings, poolFault, link }: Surroundings,
): (WriteOutcome & { ok: false }) | null => {
  switch (outcome.kind) {
    case 'done': {
      if (outcome.value === itemCode.ok) return null
      const { words, next } = itemMeaning(outcome.value)
      const why = fault('iso.piece', { place: placeOf({ row, offset, count }), code: codeText(outcome.value), words, next })
      return { ok: false, quality: qualityOf(outcome.value), fault: why }
    }
    case 'refused':
      return { ok: false, quality: quality.BadDeviceFailure, fault: requestFault(outcome.code) }
    case 'expired':
      return expired(path)
    case 'closed':
      if (!outcome.sent) return { ok: false, quality: quality.BadNotConnected, fault: poolFault ?? fault('link.off', { name: link }) }
      return unknown(path, problemOf(outcome, settings.patience.answer))
    case 'silent':
    case 'malformed':
      return unknown(path, problemOf(outcome, settings.patience.answer))
  }
}

const unknown = (path: string, problem: string): WriteOutcome & { ok: false } => ({
  ok: false,
  quality: quality.BadTimeout,
  fault: fault('write.unknown', { path, problem }),
})
