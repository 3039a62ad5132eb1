import { createSocket } from 'node:dgram'
import { decodeApdu } from '#core/bacnet/apdu'
import { bvlc, decodeFrame, encodeFrame, encodeNpdu } from '#core/bacnet/frames'
import type { Closing } from './engineOn'

type Request = Extract<ReturnType<typeof decodeApdu>, { kind: 'request' }>
/** Sends bytes of an APDU back. */
export type Reply = (apdu: Buffer, from?: 'itself' | 'another port') => void

/** A device of which each byte that it sends is ours: for what a sound one never does. */
export const rawServices = async (closing: Closing, answer: (request: Request, reply: Reply, raw: (datagram: Buffer) => void) => void) => {
  const [socket, other] = [createSocket('udp4'), createSocket('udp4')]
  await Promise.all([socket, other].map((one) => new Promise<void>((resolve) => one.bind(0, '127.0.0.1', resolve))))
  closing.push(() => {
    socket.close()
    other.close()
    return Promise.resolve()
  })
  const receipts: Buffer[] = []
  socket.on('message', (bytes, { address, port }) => {
    const frame = decodeFrame(bytes, { host: address, port })
    if (frame.kind !== 'apdu') return
    const apdu = decodeApdu(frame.apdu)
    if (apdu.kind === 'segment-ack') receipts.push(Buffer.from(frame.apdu))
    if (apdu.kind !== 'request') return
    const reply: Reply = (content, from = 'itself') => {
      const datagram = encodeFrame(bvlc.unicast, encodeNpdu({ apdu: content, expectsReply: false, to: null }))
      ;(from === 'itself' ? socket : other).send(datagram, port, address)
    }
    answer(apdu, reply, (datagram) => socket.send(datagram, port, address))
  })
  return { port: socket.address().port, receipts }
}
