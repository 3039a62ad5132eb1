import { createServer, type Server, type Socket } from 'node:net'

export interface PlantWrite {
  register: number
  value: number
  at: number
}

/**
 * A Modbus device that nobody kills: it keeps what was written and when, and is what all others are measured by.
 * Functions 3, 6 and 16 of one unit, from the standard's bytes (Modbus Application Protocol 1.1b3, 6.3, 6.6, 6.12).
 */
export class Plant {
  readonly writes: PlantWrite[] = []
  private registers = new Map<number, number>()
  private sockets = new Set<Socket>()
  private silentUntil = 0

  private constructor(private server: Server) {
    server.on('connection', (socket) => this.take(socket))
  }

  static async start(): Promise<Plant> {
    const server = createServer()
    const plant = new Plant(server)
    await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve))
    return plant
  }

  get port() {
    return (this.server.address() as { port: number }).port
  }

  /** What a register holds that nobody wrote yet tells its own number. */
  value(register: number): number {
    return this.registers.get(register) ?? 1000 + register
  }

  /** Whether a register held a value at any time since. */
  held(register: number, value: number, since: number): boolean {
    const mine = this.writes.filter((write) => write.register === register)
    const before = mine.filter(({ at }) => at <= since).at(-1)?.value ?? 1000 + register
    return before === value || mine.some((write) => write.at > since && write.value === value)
  }

  cut() {
    for (const socket of this.sockets) socket.destroy()
  }

  silence(ms: number) {
    this.silentUntil = Date.now() + ms
  }

  async stop() {
    this.cut()
    await new Promise((resolve) => this.server.close(resolve))
  }

  private take(socket: Socket) {
    let bytes = Buffer.alloc(0)
    this.sockets.add(socket)
    socket.on('error', () => {}).on('close', () => this.sockets.delete(socket))
    socket.on('data', (part) => {
      bytes = Buffer.concat([bytes, part])
      while (bytes.length >= 6 && bytes.length >= 6 + bytes.readUInt16BE(4)) {
        const frame = bytes.subarray(0, 6 + bytes.readUInt16BE(4))
        bytes = bytes.subarray(frame.length)
        if (Date.now() >= this.silentUntil) socket.write(this.reply(frame))
      }
    })
  }

  private reply(frame: Buffer): Buffer {
    const pdu = this.answer(frame.subarray(7))
    const head = Buffer.from(frame.subarray(0, 7))
    head.writeUInt16BE(pdu.length + 1, 4)
    return Buffer.concat([head, pdu])
  }

  private answer(pdu: Buffer): Buffer {
    const [service, offset] = [pdu[0]!, pdu.readUInt16BE(1)]
    if (service === 3) return this.read(offset, pdu.readUInt16BE(3))
    if (service === 6) {
      this.write(offset, pdu.readUInt16BE(3))
      return pdu
    }
    if (service !== 16) return Buffer.from([service | 0x80, 1])
    for (let i = 0; i < pdu.readUInt16BE(3); i++) this.write(offset + i, pdu.readUInt16BE(6 + 2 * i))
    return pdu.subarray(0, 5)
  }

  private read(offset: number, count: number): Buffer {
    const reply = Buffer.alloc(2 + 2 * count)
    reply[0] = 3
    reply[1] = 2 * count
    for (let i = 0; i < count; i++) reply.writeUInt16BE(this.value(offset + i) & 0xffff, 2 + 2 * i)
    return reply
  }

  private write(register: number, value: number) {
    this.registers.set(register, value)
    this.writes.push({ register, value, at: Date.now() })
  }
}
