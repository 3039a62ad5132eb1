import { encodeValue } from '#core/isotcp/encoding'
import type { IsoLayout } from '#core/isotcp/layout'
import type { TagValue } from '#core/tags/types'
import type { Converter } from '../physics/converter'
import { Controller } from './controller'

/** Where FC-1 keeps what: block 10 holds what it measures, block 20 what it is told. */
const layout = (type: IsoLayout['type'], more: Partial<IsoLayout> = {}): IsoLayout => ({
  ...{ type, form: null, order: 'big', length: 0, count: 0, bit: null },
  ...more,
})

const [status, orders, guarded, symbolic] = [10, 20, 30, 40]
const shipLength = 20

/** The controller of the frequency converter: rack 0, slot 2, and few connections. */
export class ConverterController {
  readonly controller = new Controller({ rack: 0, slot: 2, connections: 4, size: 240, parallel: 2, turnaround: 2 })
  private status: Buffer
  private orders: Buffer
  private beats = 0

  constructor(readonly converter: Converter) {
    const { memory } = this.controller
    this.status = memory.add(status, 80)
    this.orders = memory.add(orders, 16)
    memory.add(guarded, 32, 'denied')
    memory.add(symbolic, 32, 'symbolic')
    this.status[44] = shipLength
    const { setFrequency, limit, ramp, enabled } = converter.state
    put(this.orders, 0, setFrequency, layout('float32'))
    put(this.orders, 4, limit, layout('float32'))
    put(this.orders, 8, ramp, layout('int16'))
    this.orders[10] = enabled ? 1 : 0
    this.show()
  }

  /** Takes what was ordered, lets time pass, shows what came of it. */
  step(seconds: number) {
    const { state } = this.converter
    state.setFrequency = Math.min(66, Math.max(0, this.orders.readFloatBE(0)))
    state.limit = this.orders.readFloatBE(4)
    state.ramp = this.orders.readInt16BE(8)
    state.enabled = (this.orders[10]! & 1) === 1
    this.converter.advance(seconds)
    this.beats++
    this.show()
  }

  private show() {
    const { state } = this.converter
    const { status: bytes } = this
    bytes[0] = (state.running ? 1 : 0) | (state.enabled && !state.running ? 2 : 0) | (state.enabled ? 4 : 0) | (state.atSetPoint ? 8 : 0)
    bytes[1] = state.running ? 3 : 0
    put(bytes, 2, state.atSetPoint ? 40 : state.running ? 30 : 10, layout('int16'))
    for (const [i, value] of [state.frequency, state.voltage, state.current, state.power, state.dcVoltage].entries())
      put(bytes, 4 + 4 * i, value, layout('float32'))
    put(bytes, 24, state.starts, layout('int32'))
    put(bytes, 28, state.energy, layout('float64'))
    put(bytes, 36, state.lastStart, layout('datetime', { form: 'bcd8' }))
    put(bytes, 44, state.ship, layout('string', { form: 'counted', length: shipLength }))
    const tenths = state.temperatures.map((degrees) => Math.round(10 * degrees))
    put(bytes, 66, tenths, layout('int16', { count: tenths.length }))
    const { memory } = this.controller
    memory.area('flag').writeUInt16BE(this.beats & 0xffff, 0)
    put(memory.area('timer'), 2 * 5, Math.max(0, 9000 - (this.beats % 36) * 250), layout('uint32', { form: 'timer' }))
    put(memory.area('counter'), 2 * 7, state.starts % 1000, layout('uint16', { form: 'digits' }))
  }
}

const put = (into: Buffer, at: number, value: TagValue, of: IsoLayout) => {
  const { skip, bytes } = encodeValue(value, of)
  bytes.copy(into, at + skip)
}
