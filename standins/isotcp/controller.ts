import { createServer, type Server, type Socket } from 'node:net'
import { decodeJob, encodeError, encodeReadAnswer, encodeSetupAnswer, encodeWriteAnswer, roomIn, type Job } from '#core/isotcp/pdu'
import { encodeConfirm, encodeData, encodeDisconnect, PacketCutter, type Tpdu } from '#core/isotcp/tpkt'
import { Memory } from './memory'

export const controllerFaultText = {
  silence: 'takes connections, and answers no request',
  slow: 'answers slowly',
  drop: 'closes the connection at each request',
  taken: 'has no connection left',
  shut: 'refuses every request: access from outside is switched off',
  garbage: 'answers with bytes of another protocol',
} as const
export type ControllerFault = keyof typeof controllerFaultText
export const isControllerFault = (name: unknown): name is ControllerFault => Object.hasOwn(controllerFaultText, name as string)

export interface ControllerOptions {
  rack: number
  slot: number
  connections: number
  /** Bytes of a PDU, and requests under way at once, that it grants. */
  size: number
  parallel: number
  /** How long it takes for one request, ms. */
  turnaround: number
}

interface Guest {
  socket: Socket
  attached: boolean
  size: number
}

const notAttached = 2
const noFunction = 0x8104
const tooLarge = 0x8500
const slowMs = 1500

/** A controller that speaks ISO-on-TCP: some connections, one slot, memory, and requests worked off one after the other per connection. */
export class Controller {
  readonly memory = new Memory()
  fault: ControllerFault | null = null
  requests = 0
  private server: Server
  private guests = new Set<Guest>()

  constructor(readonly options: ControllerOptions) {
    this.server = createServer((socket) => this.accept(socket))
  }

  listen(port: number, host = '127.0.0.1'): Promise<number> {
    return new Promise((resolve, reject) => {
      this.server.once('error', reject)
      this.server.listen(port, host, () => resolve((this.server.address() as { port: number }).port))
    })
  }

  get connections() {
    return [...this.guests].filter(({ attached }) => attached).length
  }

  dropAll() {
    for (const { socket } of this.guests) socket.destroy()
  }

  close(): Promise<void> {
    this.dropAll()
    return new Promise((resolve) => this.server.close(() => resolve()))
  }

  private accept(socket: Socket) {
    const guest: Guest = { socket, attached: false, size: this.options.size }
    this.guests.add(guest)
    socket.setNoDelay(true)
    const cutter = new PacketCutter()
    let work: Promise<void> = Promise.resolve()
    socket.on('data', (chunk) => {
      const { tpdus, problem } = cutter.push(chunk)
      for (const tpdu of tpdus) work = work.then(() => this.serve(tpdu, guest))
      if (problem) socket.destroy()
    })
    socket.on('error', () => socket.destroy())
    socket.on('close', () => this.guests.delete(guest))
  }

  private async serve(tpdu: Tpdu, guest: Guest) {
    const { socket } = guest
    if (socket.destroyed) return
    if (tpdu.kind === 'request') return this.attach(tpdu, guest)
    if (tpdu.kind !== 'data' || !guest.attached) return void socket.destroy()
    const job = decodeJob(tpdu.data)
    if (this.fault === 'silence') return
    const ms = this.fault === 'slow' ? slowMs : this.options.turnaround
    if (ms > 0) await new Promise((resolve) => setTimeout(resolve, ms))
    if (socket.destroyed) return
    if (this.fault === 'drop' && job?.kind !== 'setup') return void socket.destroy()
    if (this.fault === 'garbage') return void socket.write('HTTP/1.1 400 Bad Request\r\n\r\n')
    this.requests++
    socket.write(encodeData(job === null ? encodeError(0, noFunction) : this.answer(job, guest, tpdu.data.length)))
  }

  /** Only its own slot is there, and not for more than it has connections. */
  private attach({ ends, reference }: Extract<Tpdu, { kind: 'request' | 'confirm' }>, guest: Guest) {
    const { rack, slot, connections } = this.options
    const place = ends.theirs?.[1]
    const isHere = ends.theirs?.length === 2 && ends.theirs[0]! >= 1 && ends.theirs[0]! <= 3 && place === ((rack << 5) | slot)
    if (!isHere) return void guest.socket.end(encodeDisconnect(reference, notAttached))
    if (this.fault === 'taken' || this.connections >= connections) return void guest.socket.destroy()
    guest.attached = true
    guest.socket.write(encodeConfirm(reference, 0x44, { ours: ends.ours ?? new Uint8Array(), theirs: ends.theirs! }))
  }

  private answer(job: Job, guest: Guest, bytes: number): Buffer {
    const { size, parallel } = this.options
    if (job.kind === 'setup') {
      guest.size = Math.min(size, job.wanted.size)
      return encodeSetupAnswer(job.reference, { size: guest.size, parallel: Math.min(parallel, job.wanted.parallel) })
    }
    if (this.fault === 'shut') return encodeError(job.reference, noFunction)
    if (bytes > guest.size) return encodeError(job.reference, tooLarge)
    if (job.kind === 'write')
      return encodeWriteAnswer(
        job.reference,
        job.pieces.map(({ piece, bytes: data }) => this.memory.write(piece, data)),
      )
    const answers = job.pieces.map((piece) => this.memory.read(piece))
    const answer = encodeReadAnswer(job.reference, job.pieces, answers)
    return answer.length > roomIn(guest.size).answer + 14 ? encodeError(job.reference, tooLarge) : answer
  }
}
