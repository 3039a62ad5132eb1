import { formatAddress } from '#core/isotcp/address'
import { formText } from '#core/isotcp/layout'
import { hex } from '#core/isotcp/tpkt'
import { arrayOf, type DataType, type TagValue } from '#core/tags/types'
import { counted } from '#core/text/counted'
import { duration } from '#core/text/duration'
import { valueText } from '#core/text/number'
import type { ValueOrigin, ValueStage } from '#shared/values'
import type { SampleSink } from '../../table/intake'
import { madeStages, passedStage } from '../stages'
import { placeOf, type IsoPolled, type PieceBlock } from './pieceBlock'

const typeOf = ({ layout }: IsoPolled): DataType => (layout.count > 0 ? arrayOf(layout.type) : layout.type)

/** Tells how a value is made: from the bytes of the last answer to what consumers get. */
export const originOf = (point: IsoPolled, block: PieceBlock | undefined, table: SampleSink): ValueOrigin => {
  const base = { readings: [], wordsFrom: placeOf(point), goesTo: [], fault: block?.fault ?? null }
  if (!block?.bytes)
    return { ...base, stages: [{ title: 'Bytes on the wire', text: 'none yet', detail: `nothing came from ${placeOf(point)} so far` }] }
  const at = block.indexOf(point)
  return {
    ...base,
    stages: [
      ...stagesFrom(point, block.bytes, at, point.decode(block.bytes, at), { detail: answered(block), at: block.repliedAt }),
      passedStage(point.handle, typeOf(point), point.scaling, table),
    ],
  }
}

const mostShown = 32

/** The stages that need only the bytes; also used for an address that is not a tag yet. */
export const stagesFrom = (
  point: IsoPolled,
  bytes: Buffer,
  at: number,
  raw: TagValue,
  from: Pick<ValueStage, 'detail' | 'at'>,
): ValueStage[] => {
  const { layout, row, count } = point
  const own = bytes.subarray(at, at + count * row.width)
  const isOneBit = layout.type === 'bool' && layout.count === 0
  const read = typeOf(point)
  const isNone = typeof raw === 'number' && Number.isNaN(raw) && layout.form !== null
  return [
    {
      title: isOneBit ? 'Bit on the wire' : own.length === 1 ? 'Byte on the wire' : 'Bytes on the wire',
      text: isOneBit
        ? `bit ${layout.bit ?? 0} of ${hex(own)}`
        : hex(own.subarray(0, mostShown)) + (own.length > mostShown ? ` … (${counted(own.length, 'byte')})` : ''),
      ...from,
    },
    {
      title: `Read as ${read}`,
      text: isNone ? 'no value of this form' : valueText(raw, read),
      detail: layout.form ? formText[layout.form] : layout.order === 'little' ? 'lowest byte first' : '',
    },
    ...madeStages(point, raw),
  ]
}

const answered = (block: PieceBlock) => {
  const shared = block.plan.items.length - 1
  const company =
    shared === 0 ? `${formatAddress(block.plan.items[0]!.address)} alone` : `with ${counted(shared, 'other')} in ${placeOf(block.piece)}`
  return `${company}, ${duration(block.answerMs)}, answer at`
}
