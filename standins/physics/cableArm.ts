import type { Berth } from './berth'

/**
 * The arm that carries the cable to a ship. It follows the hull: tide and swell move it slowly,
 * wind a little faster. What it feels of the current it takes from its berth.
 */
export interface ArmState {
  /** m, °, ° */
  extension: number
  slew: number
  elevation: number
  targetExtension: number
  targetSlew: number
  /** kN */
  seatForce: number
  clamped: boolean
  pilotClosed: boolean
  /** °C, the three contacts of the plug. */
  contacts: number[]
  /** A */
  current: number
  step: number
  homedAt: number
  retracting: boolean
}

const reach = 4.5

export class CableArm {
  readonly state: ArmState
  private time = Math.random() * 100

  constructor(
    readonly number: number,
    readonly berth: Berth,
  ) {
    this.state = {
      extension: 1.3,
      slew: -12,
      elevation: 41,
      targetExtension: 1.3,
      targetSlew: -12,
      seatForce: 8,
      clamped: true,
      pilotClosed: true,
      contacts: [12, 12, 12],
      current: 0,
      step: 40,
      homedAt: Date.now() - 3_600_000,
      retracting: false,
    }
  }

  advance(seconds: number) {
    this.time += seconds
    const { state, time, berth } = this
    const swell = Math.sin(time / 4.1 + this.number)
    const goal = state.retracting ? 0 : state.targetExtension
    state.extension = clamp(state.extension + (goal + 0.04 * swell - state.extension) * Math.min(1, seconds / 2), 0, reach)
    state.slew = state.targetSlew + 0.8 * Math.sin(time / 17)
    state.elevation = 41 + 0.5 * Math.sin(time / 9.3)
    state.clamped = berth.state.plugged && !state.retracting
    state.pilotClosed = state.clamped
    state.seatForce = state.clamped ? 8 + 0.3 * swell : 0
    state.current = berth.state.current
    state.contacts = state.contacts.map((_, i) => berth.state.cableTemperature + 2 + i * 0.7)
    state.step = state.retracting ? 70 : state.clamped ? 40 : 10
    if (state.retracting && state.extension < 0.05) {
      state.retracting = false
      state.homedAt = Date.now()
      state.targetExtension = 1.3
    }
  }

  get inEnvelope() {
    return this.state.extension > 0.2 && this.state.extension < reach - 0.3
  }
}

const clamp = (value: number, low: number, high: number) => Math.max(low, Math.min(high, value))
