import { Substation } from '../physics/substation'
import { BacnetDevice } from './device'
import { enumerated, real, unsigned, type SimulatedObject } from './objects'

/** Kinds of objects and units, by the numbers of the standard. */
const kind = { analogInput: 0, analogValue: 2, binaryInput: 3, binaryValue: 5, multiStateValue: 19, accumulator: 23 } as const
const unit = { celsius: 62, percent: 98, pascal: 53, hours: 71, none: 95 } as const

const filterLimit = 140

interface Shown {
  object: SimulatedObject
  value(): number
}

/** The building services of the substation: ventilation that cools the transformer hall, and the transformer’s own watch. */
export class SubstationServices {
  readonly ventilation: BacnetDevice
  /** Of an older make: one property in a request, short messages. */
  readonly transformer: BacnetDevice
  readonly hall = new Substation()
  private shown: Shown[] = []
  private setPoint: SimulatedObject
  private enabled: SimulatedObject
  private mode: SimulatedObject
  private filterAlarm: SimulatedObject

  constructor(private loadKw: () => number) {
    const about = { vendor: 'Harrow Air Works', host: '127.0.0.1', broadcast: '127.255.255.255' }
    this.ventilation = new BacnetDevice({ ...about, instance: 4001, name: 'Substation ventilation', model: 'AHU-2', places: 12 })
    this.transformer = new BacnetDevice({
      ...{ ...about, broadcast: '', instance: 4002, name: 'Transformer watch', model: 'TW-1', room: 480, takesMany: false },
      takesIncrements: false,
    })
    this.ventilation.transport.manages = () => [this.ventilation.transport, this.transformer.transport]
    const { state } = this.hall
    this.measured(this.ventilation, 1, 'Hall temperature', unit.celsius, () => state.hall, 0.1)
    this.measured(this.ventilation, 2, 'Outside temperature', unit.celsius, () => state.outside, 0.2)
    this.measured(this.ventilation, 3, 'Fan speed', unit.percent, () => state.fan, 1)
    this.measured(this.ventilation, 4, 'Filter pressure', unit.pascal, () => state.filterPa, 2)
    this.setPoint = this.ventilation.add({
      ...{ type: kind.analogValue, instance: 1, name: 'Hall set point', units: unit.celsius, value: real(22), usual: real(22) },
      ...{ description: 'The fans keep the transformer hall at this', increment: 0.1, range: { low: 10, high: 35 } },
    })
    this.setPoint.command(real(21.5), 12)
    this.enabled = this.ventilation.add({
      ...{ type: kind.binaryValue, instance: 1, name: 'Fan enable', value: enumerated(1), usual: enumerated(1) },
      texts: { off: 'Locked', on: 'Free' },
    })
    this.mode = this.ventilation.add({
      ...{ type: kind.multiStateValue, instance: 1, name: 'Operating mode', value: unsigned(2), usual: unsigned(2) },
      states: ['Off', 'Automatic', 'Night', 'Smoke extraction'],
    })
    this.filterAlarm = this.ventilation.add({
      ...{ type: kind.binaryInput, instance: 1, name: 'Filter alarm', value: enumerated(0) },
      texts: { off: 'Clean', on: 'Clogged' },
    })
    const hours = this.ventilation.add({ type: kind.accumulator, instance: 1, name: 'Fan hours', units: unit.hours, value: unsigned(0) })
    this.shown.push({ object: hours, value: () => Math.floor(state.runHours) })
    this.measured(this.transformer, 1, 'Winding temperature', unit.celsius, () => state.winding, 0.5)
    this.measured(this.transformer, 2, 'Oil temperature', unit.celsius, () => state.oil, 0.5)
  }

  get devices() {
    return [this.ventilation, this.transformer]
  }

  /** What people see of it. */
  get setPointNow() {
    return this.setPoint.number
  }

  step(seconds: number) {
    const isOn = this.enabled.number === 1 && this.mode.number !== 1
    const setPoint = this.mode.number === 4 ? 0 : this.mode.number === 3 ? this.setPoint.number + 2 : this.setPoint.number
    this.hall.advance(seconds, { setPoint, enabled: isOn, loadKw: this.loadKw() })
    for (const { object, value } of this.shown) object.set(object.options.type === kind.accumulator ? unsigned(value()) : real(value()))
    const isClogged = this.hall.state.filterPa > filterLimit
    this.filterAlarm.set(enumerated(isClogged ? 1 : 0))
    this.filterAlarm.flags.inAlarm = isClogged
  }

  close() {
    for (const device of this.devices) device.close()
  }

  private measured(device: BacnetDevice, instance: number, name: string, units: number, value: () => number, increment: number) {
    const object = device.add({ type: kind.analogInput, instance, name, units, value: real(value()), increment })
    this.shown.push({ object, value })
  }
}
