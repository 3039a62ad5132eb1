import { createServer, type Server, type Socket } from 'node:net'
import type { Duplex } from 'node:stream'
import { exception } from '#core/modbus/exceptions'
import type { Frame } from '#core/modbus/frame'
import { framesOf } from '#core/modbus/framing'
import type { Framing } from '#core/modbus/framings'
import { decodeRequest, encodeException } from '#core/modbus/pdu'
import type { Meter } from './meter'

/**
 * A gateway with meters behind it, or with another framing the line itself. Like real ones it takes a limited number of
 * connections, and works off the requests of each connection one after the other.
 */
export class Gateway {
  private server: Server
  private sockets = new Set<Socket>()

  constructor(
    readonly meters: Meter[],
    private mostConnections = 8,
    private framing: Framing = 'tcp',
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
    socket.on('close', () => this.sockets.delete(socket))
    this.attend(socket)
  }

  /** Answers what comes over a connection, or over a serial port. */
  attend(stream: Duplex) {
    const cutter = framesOf(this.framing).cutter('request')
    let work = Promise.resolve()
    stream.on('data', (chunk: Buffer) => {
      const { frames, problem } = cutter.push(chunk)
      for (const frame of frames) work = work.then(() => this.serve(frame, stream))
      if (problem) stream.destroy()
    })
    stream.on('error', () => stream.destroy())
  }

  private async serve(frame: Frame, socket: Duplex) {
    const isLine = this.framing !== 'tcp'
    if (isLine && frame.unit === 0) return this.tellAll(frame)
    const meter = this.meters.find((candidate) => candidate.unit === frame.unit)
    // on a line nobody speaks for who is not there
    if (!meter) return isLine ? undefined : this.send(socket, frame, encodeException(frame.pdu[0]!, exception.gatewayTargetFailed))
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
      const whole = framesOf(this.framing).encode(frame.transaction, frame.unit, reply)
      return void socket.write(whole.subarray(0, Math.floor(whole.length / 2)))
    }
    this.send(socket, frame, reply)
  }

  private tellAll({ pdu }: Frame) {
    const request = decodeRequest(pdu)
    if (request.ok) for (const meter of this.meters) meter.answer(request.value)
  }

  private send(socket: Duplex, { transaction, unit }: Frame, pdu: Buffer) {
    if (!socket.destroyed) socket.write(framesOf(this.framing).encode(transaction, unit, pdu))
  }
}

const pause = (ms: number): Promise<void> | undefined => (ms <= 0 ? undefined : new Promise((resolve) => setTimeout(resolve, ms)))
