import { Gateway } from '#standins/modbus/gateway'
import { Meter } from '#standins/modbus/meter'
import { Berth } from '#standins/physics/berth'
import type { FaultName } from '#standins/modbus/faults'
import { openSession } from './modbusSession'

/** Three meters behind a gateway whose faults can be switched, and links to it; all ends with `closeAll`. */
export const feederPlant = () => {
  const closing: (() => Promise<void>)[] = []
  const closeAll = async () => {
    for (const close of closing.splice(0).reverse()) await close()
  }
  const plant = async (mostConnections = 8) => {
    const profile = { voltage: 11_000, load: 1000, powerFactor: 0.95, ramp: 1, swing: 0, swingPeriod: 1 }
    const meters = [11, 12, 13].map((unit, i) => new Meter(unit, i + 1, new Berth(profile, 1000, true), () => 1))
    const gateway = new Gateway(meters, mostConnections)
    const port = await gateway.listen(0)
    closing.push(() => gateway.close())
    const meter = (unit: number) => meters.find((candidate) => candidate.unit === unit)!
    const fail = (unit: number, fault: FaultName | null) => (meter(unit).fault.fault = fault)
    return { gateway, port, meter, fail }
  }
  const open = (...args: Parameters<typeof openSession>) => {
    const made = openSession(...args)
    closing.push(() => made.session.close())
    const unit = (number: number) => made.session.status().units!.find((candidate) => candidate.unit === String(number))
    return { ...made, unit }
  }
  return { closing, closeAll, plant, open }
}

export const powerOf = (...units: number[]) => units.map((unit) => ({ address: `${unit}:holding/40`, type: 'float32' as const }))
