/**
 * The frequency converter that makes ships’ 60 Hz of the grid’s 50. Simple physics, but consistent: P = √3 · U · I · pf,
 * and energy is the integral of power. Units: Hz, V, A, kW, kWh, °C, seconds.
 */
export interface ConverterState {
  enabled: boolean
  running: boolean
  atSetPoint: boolean
  /** What it is to make, Hz. Writable. */
  setFrequency: number
  /** So long from standstill to full frequency, s. Writable. */
  ramp: number
  /** Power above which it stops, kW. Writable. */
  limit: number
  frequency: number
  voltage: number
  current: number
  power: number
  dcVoltage: number
  energy: number
  starts: number
  lastStart: number
  /** Of the three phases of either side. */
  temperatures: number[]
  ship: string
}

const nominal = { frequency: 60, voltage: 6600, load: 820, powerFactor: 0.96 }
const ambient = 14

export class Converter {
  readonly state: ConverterState = {
    ...{ enabled: true, running: true, atSetPoint: true, setFrequency: 60, ramp: 20, limit: 1500 },
    ...{ frequency: 60, voltage: nominal.voltage, current: 0, power: 0, dcVoltage: 10_450, energy: 1_208_433.5, starts: 318 },
    ...{ lastStart: Date.UTC(2026, 10, 26, 21, 14, 9), temperatures: Array.from({ length: 6 }, () => ambient), ship: 'Aurora of Harrow' },
  }
  private age = 0

  constructor() {
    this.settle()
    this.state.temperatures = this.state.temperatures.map((_, i) => this.warmth(i))
  }

  /** Lets `seconds` pass. */
  advance(seconds: number) {
    const { state } = this
    this.age += seconds
    const was = state.running
    state.running = state.enabled && state.power <= state.limit
    if (state.running && !was) {
      state.starts++
      state.lastStart = Date.now()
    }
    const wanted = state.running ? state.setFrequency : 0
    const step = (nominal.frequency / Math.max(1, state.ramp)) * seconds
    const away = wanted - state.frequency
    state.frequency = Math.abs(away) <= step ? wanted : state.frequency + Math.sign(away) * step
    state.atSetPoint = state.running && state.frequency === wanted
    this.settle()
    state.energy += (state.power * seconds) / 3600
    state.temperatures = state.temperatures.map((now, i) => now + ((this.warmth(i) - now) * Math.min(seconds, 180)) / 180)
  }

  /** Voltage follows frequency; the load swings a little. */
  private settle() {
    const { state } = this
    const part = Math.min(1, state.frequency / nominal.frequency)
    const load = nominal.load * part ** 2 * (1 + 0.03 * Math.sin(this.age / 11))
    state.voltage = nominal.voltage * part
    state.current = state.voltage > 1 ? (load * 1000) / (Math.sqrt(3) * state.voltage * nominal.powerFactor) : 0
    state.power = (Math.sqrt(3) * state.voltage * state.current * nominal.powerFactor) / 1000
    state.dcVoltage = 10_450 - 0.6 * state.current + 4 * Math.sin(this.age / 3)
  }

  private warmth(phase: number) {
    return ambient + 0.0055 * this.state.current ** 2 + phase * 0.4
  }
}
