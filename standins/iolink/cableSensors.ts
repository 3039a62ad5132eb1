import type { CableArm } from '../physics/cableArm'
import { angle, lamp, surface } from './descriptions/devices'
import { tension } from './descriptions/tension'
import { SensorMaster } from './master'
import { Sensor } from './sensor'

/** Tension of the cable per seat force of the plug, kN per kN, and what the drum pulls besides. */
const [pull, drum] = [4.6, 6]
const slackBelow = 20
const overAbove = 180
const hotFrom = 60

/** The sensors of the first cable arm, at a master of four ports. Two are plugged in from the start. */
export class CableSensors {
  readonly master = new SensorMaster()
  readonly tension = new Sensor(tension, 'HT-0093')
  readonly angle = new Sensor(angle, 'HA-1204')
  readonly surface = new Sensor(surface, 'HS-0012')
  readonly lamp = new Sensor(lamp, 'HL-0007')
  private isOver = false

  constructor(private arm: CableArm) {
    this.master.plug(1, this.tension)
    this.master.plug(2, this.angle)
    this.surface.setPart(100, 1, Uint8Array.of(0x02, 0x58))
    this.surface.setPart(100, 2, Uint8Array.of(0x02, 0x26))
    this.surface.parameters.set(101, Uint8Array.of(0x3f, 0x73, 0x33, 0x33))
    this.lamp.parameters.set(110, Uint8Array.of(80))
    this.lamp.values.set('Supply', 241)
    this.step()
  }

  /** What each sensor would be at its place, by port. */
  get spare(): Sensor[] {
    return [this.tension, this.angle, this.surface, this.lamp]
  }

  step() {
    const { seatForce, extension, elevation, contacts } = this.arm.state
    const kN = drum + pull * seatForce + 3 * extension
    this.tension.measure('Tension', kN)
    this.tension.measure('Temperature', 9)
    this.tension.values.set('Slack', kN < slackBelow)
    this.tension.values.set('Overload', kN > overAbove)
    if (kN > overAbove !== this.isOver) {
      this.isOver = kN > overAbove
      this.master.report(1, 36_001, this.isOver ? 'APPEARS' : 'DISAPPEARS')
    }
    this.angle.measure('Angle', elevation)
    this.angle.values.set('Zeroed', true)
    const hottest = Math.max(...contacts) + 3
    this.surface.measure('Temperature', hottest)
    this.surface.measure('Own temperature', 14)
    this.surface.values.set('Hot', hottest > hotFrom)
  }

  close() {
    return this.master.close()
  }
}
