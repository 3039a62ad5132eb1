/**
 * The transformer hall of the substation: what the transformer loses warms it, fans that follow a set point cool it.
 * Units: °C, kW, %, seconds.
 */
export interface SubstationState {
  outside: number
  hall: number
  winding: number
  oil: number
  /** How fast the fans turn. */
  fan: number
  filterPa: number
  runHours: number
}

const capacity = 260
const mostFan = 100
/** What the fans carry out for each degree and percent, kW. */
const airKw = 0.055

export class Substation {
  readonly state: SubstationState = { outside: 11, hall: 23.4, winding: 61, oil: 48, fan: 34, filterPa: 88, runHours: 4127.5 }
  private age = 0

  /** @param orders what is asked of it: the set point of the hall, whether fans may run */
  advance(seconds: number, orders: { setPoint: number; enabled: boolean; loadKw: number }) {
    const { state } = this
    this.age += seconds
    state.outside = 11 + 3 * Math.sin(this.age / 600)
    const lossKw = 4 + orders.loadKw * 0.012
    const wanted = orders.enabled ? Math.min(mostFan, Math.max(0, 18 * (state.hall - orders.setPoint) + 20)) : 0
    const step = 8 * seconds
    state.fan += Math.max(-step, Math.min(step, wanted - state.fan))
    const outKw = (state.hall - state.outside) * (0.2 + airKw * state.fan)
    state.hall += ((lossKw - outKw) * seconds) / capacity
    state.winding += ((state.hall + 26 + lossKw * 0.7 - state.winding) * Math.min(seconds, 300)) / 300
    state.oil += ((state.winding - 12 - state.oil) * Math.min(seconds, 600)) / 600
    state.filterPa = 20 + 0.02 * state.fan ** 2 + 40 * (0.5 + 0.5 * Math.sin(this.age / 3600))
    if (state.fan > 1) state.runHours += seconds / 3600
  }
}
