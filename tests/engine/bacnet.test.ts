import { isDeepStrictEqual } from 'node:util'
import { afterEach, describe, expect, it } from 'vitest'
import { quality } from '#core/tags/quality'
import { Wire } from '#engine/wire/wire'
import { checkBacnet } from '#engine/links/bacnet/check'
import type { LinkBrowser } from '#engine/links/driver'
import type { CheckStep } from '#shared/status'
import { BacnetDevice } from '../../standins/bacnet/device'
import { enumerated, real, unsigned } from '../../standins/bacnet/objects'
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

  it('asks one property after the other where the device knows no better', async () => {
    const { device, port } = await startDevice(closing, { takesMany: false })
    device.add(temperature)
    device.add(fan)
    const link = openBacnet(closing, deviceSettings(port), [
      { address: '7:AI1', type: 'float32' },
      { address: '7:BV1', type: 'bool' },
    ])
    await link.good('7:AI1')
    await link.good('7:BV1')
    expect(device.requestsForMany).toBe(0)
    expect(link.session.status().units![0]!.sentence).toContain('one property after the other')
  })

  it('asks for less at a time where an answer would be longer than a message', async () => {
    const { device, port } = await startDevice(closing, { room: 206 })
    const wanted = Array.from({ length: 60 }, (_, i) => {
      device.add({ ...temperature, instance: i + 1, name: `Point ${i + 1}`, value: real(i) })
      return { address: `7:AI${i + 1}`, type: 'float32' as const }
    })
    const link = openBacnet(closing, deviceSettings(port), wanted)
    for (const { address } of wanted) await link.good(address)
    expect(link.value('7:AI60')).toBe(59)
  })

  it('names what the device does not have, and goes on with the rest', async () => {
    const { device, port } = await startDevice(closing)
    device.add(temperature)
    const link = openBacnet(closing, deviceSettings(port), [
      { address: '7:AI1', type: 'float32' },
      { address: '7:AI99', type: 'float32' },
      { address: '7:AI1.event-state', type: 'uint32' },
      { address: '7:AI1.units', type: 'bool' },
    ])
    await link.good('7:AI1')
    await link.is('7:AI99', quality.BadConfigurationError)
    await link.is('7:AI1.event-state', quality.BadConfigurationError)
    await link.is('7:AI1.units', quality.BadTypeMismatch)
    const refused = link.session.status().units![0]!.refused
    expect(refused.find(({ address }) => address === '7:analog-input/99')!.why).toContain('there is no such object')
    expect(link.told()).toContain('refuses analog-input/99')
    expect(link.session.origin(link.handleOf('7:AI1.units'))!.fault!.what).toContain('enumerated 62, which is no bool')
  })

  it('keeps values no longer than the device answers, and takes them up again', async () => {
    const { device, port } = await startDevice(closing)
    device.add(temperature)
    const link = openBacnet(closing, deviceSettings(port), [{ address: '7:AI1', type: 'float32' }])
    await link.good('7:AI1')
    device.setFault('silent', true)
    await link.is('7:AI1', quality.BadNoCommunication)
    await until(() => link.session.status().flow === 'broken')
    expect(link.session.status().fault).toMatchObject({ code: 'bacnet.silent', side: 'device' })
    device.setFault('silent', false)
    await link.good('7:AI1')
    expect(link.told()).toContain('is there again')
  })

  it('says at once which device is at an address that another one is configured for', async () => {
    const { device, port } = await startDevice(closing, { instance: 8 })
    device.add(temperature)
    const link = openBacnet(closing, deviceSettings(port), [{ address: '7:AI1', type: 'float32' }])
    await link.is('7:AI1', quality.BadConfigurationError)
    expect(link.session.status().fault).toMatchObject({ code: 'bacnet.other-device', side: 'device' })
    expect(link.session.status().fault!.what).toContain('answers device 8, not 7')
  })
})

describe('finding devices', () => {
  const anywhere = (port: number, more: object = {}) =>
    deviceSettings(port, { localAddress: '127.0.0.2', port, broadcast: '127.255.255.255', devices: [], ...more })

  it('hears who answers a broadcast, and asks the device there', async () => {
    const { device, port } = await startDevice(closing, { broadcast: '127.255.255.255' })
    device.add(temperature)
    const link = openBacnet(closing, anywhere(port), [{ address: '7:AI1', type: 'float32' }])
    await link.good('7:AI1')
    expect(link.value('7:AI1')).toBe(21.5)
  })

  it('says that nobody answers, and how it asked', async () => {
    const { port } = await startDevice(closing, { broadcast: '127.255.255.255' })
    const link = openBacnet(closing, anywhere(port), [{ address: '9:AI1', type: 'float32' }])
    await link.is('9:AI1', quality.BadNoCommunication)
    expect(link.session.status().fault!.what).toContain('Nobody answers for device 9 (broadcast to 127.255.255.255')
  })

  it('takes no value of two devices that say they are the same, and names both', async () => {
    const { device, port } = await startDevice(closing, { broadcast: '127.255.255.255' })
    device.add(temperature)
    const twin = new BacnetDevice({ ...device.options, host: '127.0.0.3', broadcast: '127.255.255.255' })
    twin.add(temperature)
    closing.push(() => Promise.resolve(twin.close()))
    await twin.listen(port)
    const link = openBacnet(closing, anywhere(port), [{ address: '7:AI1', type: 'float32' }])
    await link.is('7:AI1', quality.BadConfigurationError)
    const { what } = link.session.status().fault!
    expect(what).toContain(`127.0.0.1:${port}`)
    expect(what).toContain(`127.0.0.3:${port}`)
    twin.setFault('silent', true)
    await link.good('7:AI1')
  })

  it('takes part through a broadcast manager, and says why where it is not taken', async () => {
    const { device: manager, port } = await startDevice(closing, { instance: 1, name: 'Manager' })
    const { device, port: other } = await startDevice(closing)
    device.add(temperature)
    manager.transport.manages = () => [manager.transport, device.transport]
    manager.transport.takesForeign = false
    const foreign = { host: '127.0.0.1', port, lifetime: 60 }
    const link = openBacnet(closing, deviceSettings(other, { devices: [], foreign }), [{ address: '7:AI1', type: 'float32' }])
    await until(() => link.session.status().fault?.code === 'bacnet.registration')
    expect(link.session.status().fault!.what).toContain('it does not take foreign devices')
    manager.transport.takesForeign = true
    await link.good('7:AI1')
  })
})

describe('notifications of changes', () => {
  const told = (port: number, more: object = {}) =>
    deviceSettings(port, { interval: 60_000, notices: { kind: 'unconfirmed', compare: 5 }, ...more })

  it.each(['confirmed', 'unconfirmed'] as const)('come %s, and carry the flags', async (kind) => {
    const { device, port } = await startDevice(closing)
    const hall = device.add(temperature)
    const link = openBacnet(closing, told(port, { notices: { kind, compare: 5 } }), [{ address: '7:AI1', type: 'float32' }])
    await link.good('7:AI1')
    await until(() => link.session.status().units?.[0]?.sentence.includes('1 tag told of'))
    expect(device.subscribers).toMatchObject([{ isConfirmed: kind === 'confirmed', process: expect.any(Number) as number }])
    hall.set(real(21.7))
    hall.set(real(25))
    await link.holds('7:AI1', 25)
    hall.flags.fault = true
    await link.is('7:AI1', quality.BadSensorFailure)
  })

  it('come by an increment of our own where the tag has one', async () => {
    const { device, port } = await startDevice(closing)
    const hall = device.add(temperature)
    const link = openBacnet(closing, told(port), [{ address: '7:AI1', type: 'float32', more: { options: { increment: 3 } } }])
    await until(() => device.subscribers.length === 1)
    expect(device.subscribers[0]!.increment).toBe(3)
    await until(() => link.session.status().units?.[0]?.sentence.includes('told of'))
    hall.set(real(25))
    await link.holds('7:AI1', 25)
  })

  it('come of other properties where a tag asks for them, from devices that know how', async () => {
    const { device, port } = await startDevice(closing)
    const hall = device.add(temperature)
    const flags = { address: '7:AI1.status-flags', type: 'bool[]', more: { options: { notices: 'confirmed' } } } as const
    const link = openBacnet(closing, told(port), [flags, { address: '7:AI1', type: 'float32' }])
    await until(() => link.session.status().units?.[0]?.sentence.includes('2 tags told of'))
    const held = (one: typeof link, all: boolean[]) => until(() => isDeepStrictEqual(one.value(flags.address), all))
    await held(link, [false, false, false, false])
    hall.flags.fault = true
    await held(link, [false, true, false, false])
    expect(link.quality(flags.address)).toBe(quality.Good)
    await link.is('7:AI1', quality.BadSensorFailure)
    const { device: simple, port: other } = await startDevice(closing, { takesIncrements: false })
    simple.add(temperature)
    const plain = openBacnet(closing, told(other), [flags])
    await held(plain, [false, false, false, false])
    await until(() => plain.session.findings()[0]?.text.includes('it tells changes of present values only'))
  })

  it('are found to be lost, named with the likely cause, and polled for until they come again', async () => {
    const { device, port } = await startDevice(closing)
    const hall = device.add(temperature)
    device.setFault('swallowed', true)
    const link = openBacnet(closing, told(port, { interval: 100 }), [{ address: '7:AI1', type: 'float32' }])
    await until(() => link.session.status().fault?.code === 'bacnet.not-notified')
    const { fault } = link.session.status()
    expect(fault!.side).toBe('network')
    expect(fault!.next).toContain('firewall')
    hall.set(real(30))
    await link.holds('7:AI1', 30)
    expect(link.quality('7:AI1')).toBe(quality.Good)
    expect(link.session.findings()).toMatchObject([{ kind: 'unnotified' }])
    device.setFault('swallowed', false)
    hall.set(real(35))
    await until(() => link.session.status().flow === 'flowing')
    expect(link.told()).toContain('arrive again')
  })

  it('that stop arriving later are found by comparing', async () => {
    const { device, port } = await startDevice(closing)
    const hall = device.add(temperature)
    const link = openBacnet(closing, told(port), [{ address: '7:AI1', type: 'float32' }])
    await until(() => link.session.status().units?.[0]?.sentence.includes('told of'))
    device.setFault('swallowed', true)
    hall.set(real(28))
    await link.holds('7:AI1', 28)
    await until(() => link.session.status().fault?.code === 'bacnet.not-notified')
  })

  it('that the device has no place for are polled instead, and that is said', async () => {
    const { device, port } = await startDevice(closing, { places: 1 })
    device.add(temperature)
    device.add(setPoint)
    const link = openBacnet(closing, told(port, { interval: 100 }), [
      { address: '7:AI1', type: 'float32' },
      { address: '7:AV1', type: 'float32' },
    ])
    await until(() => link.session.findings().length === 1)
    expect(link.session.findings()[0]!.text).toContain('it takes no further subscription')
    await link.good('7:AV1')
    device.get(2, 1).command(real(25), 8)
    await link.holds('7:AV1', 25)
  })

  it('say nothing any more of a device that went away without a word', async () => {
    const { device, port } = await startDevice(closing)
    device.add(temperature)
    const link = openBacnet(closing, told(port, { interval: 1000 }), [{ address: '7:AI1', type: 'float32' }])
    await until(() => link.session.status().units?.[0]?.sentence.includes('told of'))
    device.setFault('silent', true)
    await link.is('7:AI1', quality.BadNoCommunication)
    device.setFault('silent', false)
    await link.good('7:AI1')
  })
})

describe('writing', () => {
  const open = async (more: object = {}) => {
    const { device, port } = await startDevice(closing)
    device.add(temperature)
    device.add(setPoint)
    const link = openBacnet(closing, deviceSettings(port, more), [
      { address: '7:AV1', type: 'float32', more: { options: { priority: 10 } } },
      { address: '7:AI1', type: 'float32' },
    ])
    await link.good('7:AV1')
    return { device, link }
  }

  it('goes to the priority of the tag, shows who holds the value, and gives it back', async () => {
    const { device, link } = await open()
    expect(await link.write('7:AV1', 24.5)).toEqual({ ok: true })
    expect(link.value('7:AV1')).toBe(24.5)
    device.get(2, 1).command(real(18), 8)
    const held = await link.session.priorities(link.handleOf('7:AV1'))
    expect(held).toMatchObject({ holds: 8, ours: 10, usual: '22' })
    expect(held.levels[9]).toMatchObject({ level: 10, text: '24.5', ours: true })
    expect(held.levels[7]).toMatchObject({ text: '18', use: 'manual operator' })
    expect(await link.session.release(link.handleOf('7:AV1'))).toEqual({ ok: true })
    device.get(2, 1).command(null, 8)
    await link.holds('7:AV1', 22)
  })

  it('says in words what the device refuses', async () => {
    const { link } = await open()
    const tooHigh = await link.write('7:AV1', 90)
    expect(tooHigh).toMatchObject({ ok: false, quality: quality.BadOutOfRange })
    const input = await link.write('7:AI1', 5)
    expect(input).toMatchObject({ ok: false, quality: quality.BadNotWritable })
    expect(await link.session.release(link.handleOf('7:AI1'))).toMatchObject({ ok: false, fault: { code: 'bacnet.no-priorities' } })
    expect(await link.write('7:AV1', 'warm')).toMatchObject({ ok: false })
  })

  it('tells what is not known of a write that got no answer', async () => {
    const { device, link } = await open()
    device.setFault('silent', true)
    expect(await link.write('7:AV1', 20)).toMatchObject({ ok: false, fault: { code: 'write.unknown' } })
  })
})

describe('looking around', () => {
  it('shows devices, kinds, objects and properties, and takes a branch with names, units and states', async () => {
    const { device, port } = await startDevice(closing)
    device.add({ ...temperature, description: 'In the hall' })
    device.add(setPoint)
    device.add({ type: 19, instance: 1, name: 'Mode', value: unsigned(2), states: ['Off', 'On'] })
    const link = openBacnet(closing, deviceSettings(port), [])
    await until(() => 'children' in link.session.browser())
    const browser = link.session.browser() as LinkBrowser
    const names = async (address: string) => (await browser.children({ address, member: '' })).nodes.map(({ name }) => name)
    expect(await names('')).toEqual(['Test device'])
    expect(await names('7')).toEqual(['Analog inputs', 'Analog values', 'Multi-state values', 'Device itself'])
    expect(await names('7:analog-input')).toEqual(['Hall temperature'])
    expect(await names('7:analog-input/1')).toContain('units')
    const points = []
    for await (const part of browser.branch({ address: '7', member: '' }, AbortSignal.timeout(5000))) points.push(...part.points)
    expect(points.map(({ names: way }) => way.join('/'))).toEqual([
      'Analog inputs/Hall temperature',
      'Analog values/Set point',
      'Multi-state values/Mode',
    ])
    expect(points.map(({ details }) => details)).toMatchObject([
      { type: 'float32', unit: '°C', access: 'read', description: 'In the hall', value: 21.5 },
      { type: 'float32', access: 'readwrite', range: { low: 10, high: 35 } },
      {
        type: 'uint32',
        description: '',
        names: [
          { value: 1, name: 'Off' },
          { value: 2, name: 'On' },
        ],
      },
    ])
    const found = []
    for await (const part of browser.search('set p', AbortSignal.timeout(5000))) found.push(...part.found)
    expect(found).toMatchObject([{ address: '7:analog-value/1', names: ['Test device', 'Analog values', 'Set point'] }])
  })

  it('reads the list of objects element by element where it is longer than a message', async () => {
    const { device, port } = await startDevice(closing, { room: 206 })
    for (let i = 1; i <= 120; i++) device.add({ ...temperature, instance: i, name: `Point ${i}` })
    const link = openBacnet(closing, deviceSettings(port), [])
    await until(() => 'children' in link.session.browser())
    const { nodes } = await (link.session.browser() as LinkBrowser).children({ address: '7:analog-input', member: '' })
    expect(nodes).toHaveLength(120)
    expect(nodes[119]!.name).toBe('Point 120')
  })
})

describe('the check', () => {
  const walk = async (settings: ReturnType<typeof deviceSettings>) => {
    const steps = new Map<string, CheckStep>()
    for await (const step of checkBacnet(settings, AbortSignal.timeout(10_000), { wire: new Wire() })) steps.set(step.step, step)
    return steps
  }

  it('walks from our port to a first read', async () => {
    const { port } = await startDevice(closing)
    const steps = await walk(deviceSettings(port))
    expect([...steps.values()].map(({ step, flow }) => `${step} ${flow}`)).toEqual([
      'port flowing',
      'network flowing',
      'devices off',
      'places flowing',
      'read flowing',
    ])
    expect(steps.get('read')!.evidence).toContain('Test device')
  })

  it('stops where the port is held by another program, or the address is none of ours', async () => {
    const { port } = await startDevice(closing)
    const taken = await walk(deviceSettings(port, { port, devices: [] }))
    expect(taken.get('port')).toMatchObject({ flow: 'broken', fault: { side: 'here' } })
    expect(taken.get('port')!.fault!.what).toContain('another program has it')
    const foreign = await walk(deviceSettings(port, { localAddress: '192.0.2.1' }))
    expect(foreign.get('port')!.fault!.what).toContain('this machine has no such address')
  })
})
