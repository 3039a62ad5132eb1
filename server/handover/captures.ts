import { CaptureWriter } from '#core/traffic/capture/written'
import type { Mask } from '#core/handover/mask'
import type { CaseFacts } from '#shared/handover'

/** What passed last over a link or at an outlet as pcapng, without secrets: they stand there as asterisks, as long as they were. */
export const captureOf = ({ kind, name, pieces }: CaseFacts['passed'][number], mask: Mask): Uint8Array => {
  const connections = new Map(pieces.map(({ connection, peer }) => [connection, { id: connection, kind, here: '', peer, asks: true }]))
  const writer = new CaptureWriter(connections)
  const packets = pieces.flatMap((piece) => writer.packets({ ...piece, bytes: mask.bytes(Buffer.from(piece.bytes, 'base64')) }))
  return Buffer.concat([...writer.begin(kind, mask.text(name)), ...packets])
}
