import { createServer, type Server, type Socket } from 'node:net'
import { exception } from '#core/modbus/exceptions'
import type { Frame } from '#core/modbus/frame'
import { encodeFrame, FrameCutter } from '#core/modbus/mbap'
import { decodeRequest, encodeException } from '#core/modbus/pdu'
import type { Meter } from './meter'

/**
 * A Modbus TCP gateway with meters behind it. Like real ones it takes a limited number of
 * connections, and works off the requests of each connection one after the other.
 */
export class Gateway {
  private server: Server
  private sockets = new Set<Socket>()

  constructor(
    readonly meters: Meter[],
    private mostConnections = 8,
  ) {
    this.server = createServer((socket) => this.accept(socket))
  }

  listen(port: number, host = '127.0.0.1'): Promise<number> {
    return new Promise((resolve, reject) => {
      this.server.once('error', reject)
      this.server.listen(port, host, () => resolve((this.server.address() as { port: number }).port))
    })
  }

  get connections() {
    return this.sockets.size
  }

  /** Ends every connection, as when a cable is pulled and put back. */
  dropAll() {
    for (const socket of this.sockets) socket.destroy()
  }

  close(): Promise<void> {
    this.dropAll()
    return new Promise((resolve) => this.server.close(() => resolve()))
  }

  private accept(socket: Socket) {
    if (this.sockets.size >= this.mostConnections) return socket.destroy()
    this.sockets.add(socket)
    socket.setNoDelay(true)
    const cutter = new FrameCutter()
    let work = Promise.resolve()
    socket.on('data', (chunk) => {
      const { frames, problem } = cutter.push(chunk)
      for (const frame of frames) work = work.then(() => this.serve(frame, socket))
      if (problem) socket.destroy()
    })
    socket.on('error', () => socket.destroy())
    socket.on('close', () => this.sockets.delete(socket))
  }

  private async serve(frame: Frame, socket: Socket) {
    const meter = this.meters.find((candidate) => candidate.unit === frame.unit)
    if (!meter) return this.send(socket, frame, encodeException(frame.pdu[0]!, exception.gatewayTargetFailed))
    const { fault, delay } = meter.fault
    const takes = fault === 'slow' ? delay : meter.turnaround()
    if (fault === 'silence' || takes === Infinity) return
    await pause(takes)
    if (socket.destroyed) return
    if (fault === 'drop') return void socket.destroy()
    const request = decodeRequest(frame.pdu)
    const reply = request.ok ? meter.answer(request.value) : encodeException(frame.pdu[0]!, exception.illegalFunction)
    if (fault === 'wrong-transaction') return this.send(socket, { ...frame, transaction: frame.transaction ^ 0x5555 }, reply)
    if (fault === 'half-frame') {
      const whole = encodeFrame(frame.transaction, frame.unit, reply)
      return void socket.write(whole.subarray(0, Math.floor(whole.length / 2)))
    }
    this.send(socket, frame, reply)
  }

  private send(socket: Socket, { transaction, unit }: Frame, pdu: Buffer) {
    if (!socket.destroyed) socket.write(encodeFrame(transaction, unit, pdu))
  }
}

const pause = (ms: number): Promise<void> | undefined => (ms <= 0 ? undefined : new Promise((resolve) => setTimeout(resolve, ms)))
