/**
 * A berth with a ship on shore power. Simple physics, but consistent: whatever channel shows it,
 * P = √3 · U · I · pf to within rounding, S² = P² + Q², and energy is the integral of power.
 * Units: kV·10³ = V, A, kW, kvar, kWh, Hz, °C, seconds.
 */
export interface BerthProfile {
  /** Line voltage at the plug without load, V. */
  voltage: number
  /** What the ship draws when it has settled, kW. */
  load: number
  powerFactor: number
  /** Seconds from plugging in to full load. */
  ramp: number
  /** Slow swing of the hotel load around its mean, as a part of it, and its period in seconds. */
  swing: number
  swingPeriod: number
}

export interface BerthState {
  plugged: boolean
  breakerClosed: boolean
  /** Breaker opens above this, kW. Writable. */
  tripLimit: number
  voltage: number
  current: number
  powerFactor: number
  activePower: number
  reactivePower: number
  frequency: number
  /** Wh, whole, as the meter counts. */
  energy: number
  cableTemperature: number
  uptime: number
}

const ambient = 9
/** Volts lost per ampere: the feeder's own impedance. */
const droop = 0.35
const cableTimeConstant = 240

export class Berth {
  readonly state: BerthState
  private loadedFor = 0

  constructor(
    private profile: BerthProfile,
    energy: number,
    plugged: boolean,
  ) {
    this.loadedFor = plugged ? profile.ramp : 0
    this.state = {
      plugged,
      breakerClosed: plugged,
      tripLimit: 1900,
      voltage: profile.voltage,
      current: 0,
      powerFactor: profile.powerFactor,
      activePower: 0,
      reactivePower: 0,
      frequency: 50,
      energy,
      cableTemperature: ambient,
      uptime: 0,
    }
    this.settle()
    this.state.cableTemperature = this.warmth()
  }

  /** Lets `seconds` pass. */
  advance(seconds: number) {
    const { state } = this
    state.uptime += seconds
    this.loadedFor = this.isLoaded ? this.loadedFor + seconds : 0
    this.settle()
    if (state.activePower > state.tripLimit) this.trip()
    state.energy += (state.activePower * 1000 * seconds) / 3600
    state.cableTemperature += ((this.warmth() - state.cableTemperature) * Math.min(seconds, cableTimeConstant)) / cableTimeConstant
    state.frequency = 50 + 0.02 * Math.sin(state.uptime / 7) + 0.008 * Math.sin(state.uptime / 1.9)
  }

  private get isLoaded() {
    return this.state.plugged && this.state.breakerClosed
  }

  private trip() {
    this.state.breakerClosed = false
    this.loadedFor = 0
    this.settle()
  }

  /** Current follows from the wanted power; voltage droops with it; power follows from both. */
  private settle() {
    const { state, profile } = this
    const rise = Math.min(1, this.loadedFor / profile.ramp)
    const swing = 1 + profile.swing * Math.sin((2 * Math.PI * state.uptime) / profile.swingPeriod)
    const wanted = this.isLoaded ? profile.load * rise * swing : 0
    state.powerFactor = profile.powerFactor
    state.current = (wanted * 1000) / (Math.sqrt(3) * profile.voltage * profile.powerFactor)
    state.voltage = profile.voltage - droop * state.current
    state.activePower = (Math.sqrt(3) * state.voltage * state.current * state.powerFactor) / 1000
    state.reactivePower = state.activePower * Math.tan(Math.acos(state.powerFactor))
  }

  /** Where the cable would settle at the present current. */
  private warmth() {
    return ambient + 0.0042 * this.state.current ** 2
  }
}
