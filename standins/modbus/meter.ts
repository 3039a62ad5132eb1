import { decoderFor } from '#core/modbus/decoding'
import { registersOf } from '#core/modbus/layout'
import { exception } from '#core/modbus/exceptions'
import { encodeException, encodeReply, limits, packBits, packRegisters, type ReadFunction, type Request } from '#core/modbus/pdu'
import type { ScalarValue } from '#core/tags/types'
import type { Berth } from '../physics/berth'
import { bitChannels, channelsOf, imageOf, type Channel, type Pinned } from './registers'
import { noFault } from './faults'

/** One feeder meter: a unit behind the gateway. Answers requests from its berth's state. */
export class Meter {
  readonly fault = noFault()
  readonly pinned: Pinned = new Map()
  /** Function codes that this meter does not know; older ones lack 22 and 23. */
  readonly unknownFunctions = new Set<number>()
  readonly channels: Channel[]
  requests = 0
  /** The last thing a client wrote, for the page. */
  lastWrite: { at: number; text: string } | null = null

  constructor(
    readonly unit: number,
    readonly berthNumber: number,
    readonly berth: Berth,
    /** How long the meter takes to answer when no fault is switched on, ms; Infinity: it does not. */
    readonly turnaround: () => number,
  ) {
    this.channels = channelsOf(berthNumber)
  }

  answer(request: Request): Buffer {
    this.requests++
    const code = this.fault.fault === 'exception' ? this.fault.code : null
    if (code !== null) return encodeException(request.fc, code)
    if (this.unknownFunctions.has(request.fc)) return encodeException(request.fc, exception.illegalFunction)
    switch (request.fc) {
      case 1:
      case 2:
        return this.readBits(request)
      case 3:
      case 4:
        return this.readRegisters(request)
      case 5:
        return this.writeCoils(request, [request.on])
      case 15:
        return this.writeCoils(request, request.coils)
      case 6:
        return this.writeRegisters(request, [request.register])
      case 16:
        return this.writeRegisters(request, request.registers)
      case 22:
        return this.maskWrite(request)
      case 23:
        return this.readWrite(request)
    }
  }

  /** What every channel shows, for the page. */
  snapshot(): { name: string; place: string; value: ScalarValue; pinned: boolean; writable: boolean }[] {
    return [
      ...this.channels.map((channel) => ({
        name: channel.name,
        place: `${channel.table}/${channel.offset}`,
        value: this.pinned.get(channel.name) ?? channel.from(this.berth.state),
        pinned: this.pinned.has(channel.name),
        writable: channel.take !== undefined,
      })),
      ...bitChannels.map((channel) => ({
        name: channel.name,
        place: `${channel.table}/${channel.offset}`,
        value: this.bit(channel.name, channel.from(this.berth.state)),
        pinned: this.pinned.has(channel.name),
        writable: channel.take !== undefined,
      })),
    ]
  }

  /** Sets a channel from outside: where the meter takes writes it acts on it, elsewhere it is pinned. */
  set(name: string, value: ScalarValue): boolean {
    const bit = bitChannels.find((channel) => channel.name === name)
    const register = this.channels.find((channel) => channel.name === name)
    if (bit?.take) bit.take(this.berth.state, Boolean(value))
    else if (register?.take) register.take(this.berth.state, value)
    else if (bit || register) this.pinned.set(name, value)
    return Boolean(bit ?? register)
  }

  private bit(name: string, now: boolean): boolean {
    return this.pinned.has(name) ? Boolean(this.pinned.get(name)) : now
  }

  private readBits(request: { fc: ReadFunction; offset: number; count: number }): Buffer {
    if (request.count < 1 || request.count > limits.readBits) return encodeException(request.fc, exception.illegalDataValue)
    const table = request.fc === 1 ? 'coil' : 'discrete'
    if (request.offset + request.count > 16) return encodeException(request.fc, exception.illegalDataAddress)
    const bits = Array.from({ length: request.count }, (_, i) => {
      const channel = bitChannels.find((candidate) => candidate.table === table && candidate.offset === request.offset + i)
      return channel ? this.bit(channel.name, channel.from(this.berth.state)) : false
    })
    return encodeReply({ fc: request.fc, data: packBits(bits) })
  }

  private readRegisters(request: { fc: ReadFunction; offset: number; count: number }): Buffer {
    if (request.count < 1 || request.count > limits.readRegisters) return encodeException(request.fc, exception.illegalDataValue)
    const words = this.words(request.fc === 3 ? 'holding' : 'input', request.offset, request.count)
    return words ? encodeReply({ fc: request.fc, data: packRegisters(words) }) : encodeException(request.fc, exception.illegalDataAddress)
  }

  /** Null as soon as one of the words does not exist; that is what makes meters hard to read. */
  private words(table: 'holding' | 'input', offset: number, count: number): number[] | null {
    const image = imageOf(this.berth, this.channels, table, this.pinned)
    const words = Array.from({ length: count }, (_, i) => image.get(offset + i))
    return words.includes(undefined) ? null : (words as number[])
  }

  private writeCoils(request: Request & { fc: 5 | 15 }, values: boolean[]): Buffer {
    const channels = values.map((_, i) => bitChannels.find((channel) => channel.table === 'coil' && channel.offset === request.offset + i))
    if (channels.some((channel) => !channel?.take)) return encodeException(request.fc, exception.illegalDataAddress)
    channels.forEach((channel, i) => channel!.take!(this.berth.state, values[i]!))
    this.noteWrite(`${channels.map((channel) => channel!.name).join(', ')} = ${values.join(', ')}`)
    return encodeReply(request.fc === 5 ? request : { fc: 15, offset: request.offset, count: values.length })
  }

  private writeRegisters(request: Request & { fc: 6 | 16 }, registers: number[]): Buffer {
    if (!this.takeRegisters(request.offset, registers)) return encodeException(request.fc, exception.illegalDataAddress)
    return encodeReply(request.fc === 6 ? request : { fc: 16, offset: request.offset, count: registers.length })
  }

  private takeRegisters(offset: number, registers: number[]): boolean {
    const channel = this.channels.find((candidate) => candidate.table === 'holding' && candidate.offset === offset)
    if (!channel?.take) return false
    const layout = { type: channel.type, order: channel.order, bit: null, length: channel.length ?? 0 }
    if (registers.length !== registersOf(channel.type, layout.length)) return false
    const value = decoderFor(layout)(packRegisters(registers), 0)
    channel.take(this.berth.state, value)
    this.noteWrite(`${channel.name} = ${String(value)}`)
    return true
  }

  private maskWrite(request: Request & { fc: 22 }): Buffer {
    const before = this.words('holding', request.offset, 1)?.[0]
    if (before === undefined) return encodeException(22, exception.illegalDataAddress)
    const after = (before & request.andMask) | (request.orMask & ~request.andMask)
    return this.takeRegisters(request.offset, [after & 0xffff]) ? encodeReply(request) : encodeException(22, exception.illegalDataAddress)
  }

  private readWrite(request: Request & { fc: 23 }): Buffer {
    if (!this.takeRegisters(request.writeOffset, request.registers)) return encodeException(23, exception.illegalDataAddress)
    const words = this.words('holding', request.offset, request.count)
    return words ? encodeReply({ fc: 23, data: packRegisters(words) }) : encodeException(23, exception.illegalDataAddress)
  }

  private noteWrite(text: string) {
    this.lastWrite = { at: Date.now(), text }
  }
}
