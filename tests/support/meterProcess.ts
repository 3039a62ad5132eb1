import { Gateway } from '#standins/modbus/gateway'
import { Meter } from '#standins/modbus/meter'
import { Berth } from '#standins/physics/berth'

/** Meters of units 11 and 12 on a port of every interface, for a machine of its own: `meterProcess.ts PORT`. */
const profile = { voltage: 11_000, load: 1000, powerFactor: 0.95, ramp: 1, swing: 0, swingPeriod: 1 }
const gateway = new Gateway([11, 12].map((unit) => new Meter(unit, 1, new Berth(profile, 1000, true), () => 0)))
await gateway.listen(Number(process.argv[2]), '0.0.0.0')
console.log('listens')
