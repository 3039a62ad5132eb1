import { afterEach, describe, expect, it } from 'vitest'
import { quality } from '#core/tags/quality'
import { enumerated, real } from '../../standins/bacnet/objects'
import type { Closing } from '../support/engineOn'
import { deviceSettings, openBacnet, startDevice } from '../support/substation'
import { until } from '../support/until'

const closing: Closing = []
afterEach(async () => {
  for (const close of closing.splice(0)) await close()
})

const temperature = { type: 0, instance: 1, name: 'Hall temperature', value: real(21.5), units: 62, increment: 0.5 }
const setPoint = { type: 2, instance: 1, name: 'Set point', value: real(22), usual: real(22), range: { low: 10, high: 35 }, increment: 0.1 }
const fan = { type: 5, instance: 1, name: 'Fan', value: enumerated(1), usual: enumerated(0) }

describe('reading', () => {
  it('brings values of a device, many in a request, with the flags that the objects carry', async () => {
    const { device, port } = await startDevice(closing)
    const hall = device.add(temperature)
    device.add(fan)
    const link = openBacnet(closing, deviceSettings(port), [
      { address: '7:AI1', type: 'float32' },
      { address: '7:BV1', type: 'bool' },
      { address: '7:AI1.object-name', type: 'string' },
    ])
    await link.good('7:AI1')
    expect(link.value('7:AI1')).toBe(21.5)
    expect(link.value('7:BV1')).toBe(false)
    expect(link.value('7:AI1.object-name')).toBe('Hall temperature')
    expect(device.requestsForMany).toBeGreaterThan(0)
    hall.flags.fault = true
    await link.is('7:AI1', quality.BadSensorFailure)
    hall.flags.fault = false
    hall.flags.outOfService = true
    await link.is('7:AI1', quality.UncertainSubstituteValue)
  })
})
