import { afterEach, describe, expect, it } from 'vitest'
import { readDescription } from '#core/iolink/description/read'
import { quality } from '#core/tags/quality'
import type { BranchPart } from '#shared/browse'
import { angle, lamp, surface } from '../../standins/iolink/descriptions/devices'
import { tension } from '../../standins/iolink/descriptions/tension'
import { Sensor } from '../../standins/iolink/sensor'
import { closeAll, type Closing } from '../support/engineOn'
import { masterSettings, openMaster, startMaster } from '../support/sensors'
import { until } from '../support/until'

/** Our link to a master of smart sensors, and what is plugged in there. */

const closing: Closing = []
afterEach(() => closeAll(closing))

const described = (...documents: string[]) =>
  documents.map((document) => {
    const read = readDescription(document)
    if (!read.ok) throw new Error(read.problem)
    return read.description
  })

const kilonewtons = { gain: 0.01, offset: 0 }
const pull = { address: '1:in/16+16', type: 'int16', more: { scaling: kilonewtons } } as const

describe('a link to a master', () => {
  it('reads process data, parameters and their parts, and how the port is', async () => {
    const { base, sensors } = await startMaster(closing, tension, surface)
    sensors[0]!.measure('Tension', 83.45)
    sensors[0]!.values.set('State', 1)
    sensors[1]!.setPart(100, 2, Uint8Array.of(0x02, 0x26))
    sensors[1]!.parameters.set(101, Uint8Array.of(0x3f, 0x80, 0, 0))
    const link = await openMaster(closing, masterSettings(base), [
      pull,
      { address: '1:in/4+3', type: 'uint8' },
      { address: '1:in/1+1', type: 'bool' },
      { address: '1:parameter/18', type: 'string' },
      { address: '1:parameter/18/0+40', type: 'string', more: { options: { form: 'hex' } } },
      { address: '2:parameter/100.2', type: 'int16' },
      { address: '2:parameter/100/0+16', type: 'int16' },
      { address: '2:parameter/101', type: 'float32' },
      { address: '1:state', type: 'string' },
      { address: '1:events', type: 'string' },
    ])
    for (const { address } of link.points) await link.good(address)
    expect(link.points.map(({ address }) => link.value(address))).toEqual([
      ...[83.45, 1, false, 'HT-40', '48542d3430', 550, 550, 1, 'DEVICE_ONLINE', ''],
    ])
    sensors[0]!.measure('Tension', -2)
    await link.holds('1:in/16+16', -2)
    const origin = link.session.origin(link.handleOf('1:in/16+16'))!
    expect(origin.stages.map(({ title, text }) => [title, text])).toEqual([
      ['Sent by the device', 'ff 38 00 10'],
      ['Read as int16', '−200'],
      ['Scaled', '−2'],
      ['Passed on', '−2 · Good'],
    ])
    expect(link.session.status()).toMatchObject({ flow: 'flowing', sentence: '2 devices at 4 ports', arrivals: 0 })
  })

  it('asks once for all that lies in the same process data', async () => {
    const { base, master } = await startMaster(closing, tension)
    const wanted = Array.from({ length: 16 }, (_, i) => ({ address: `1:in/${i}+1`, type: 'bool' as const }))
    const link = await openMaster(closing, masterSettings(base, { interval: 60_000, look: 2000 }), wanted)
    await link.good('1:in/15+1')
    // ports, who is there, events, process data
    expect(master.requests).toBe(4)
  })

  it('tells within two seconds that the plug was pulled, that it is back, and that another of its kind is there', async () => {
    const { base, master, sensors } = await startMaster(closing, tension)
    const link = await openMaster(closing, masterSettings(base, { look: 1000 }), [pull, { address: '1:state', type: 'string' }])
    await link.good(pull.address)
    const began = Date.now()
    master.plug(1, null)
    await link.is(pull.address, quality.BadNotConnected)
    await link.holds('1:state', 'COMMUNICATION_LOST')
    expect(Date.now() - began).toBeLessThan(2000)
    expect(link.quality('1:state')).toBe(quality.Good)
    expect(link.session.status()).toMatchObject({ flow: 'broken', sentence: expect.stringContaining('port 1') as string })
    master.plug(1, sensors[0]!)
    await link.good(pull.address)
    const other = new Sensor(tension, 'S-9')
    other.measure('Tension', 3)
    master.plug(1, other)
    await until(() => link.told().includes('exchanged for one of its kind, serial number S-9'))
    // from then on nothing of the one before is good
    expect(link.quality(pull.address) !== quality.Good || link.value(pull.address) === 3).toBe(true)
    await link.good(pull.address)
    expect(link.told()).toContain('HT-40 of Harrow Sensor Works is not there any more')
  })

  it('takes no value from another device than belongs at a port, and says which is there', async () => {
    const { base, master, sensors } = await startMaster(closing, tension, angle)
    const ports = [{ port: 1, vendorId: 2641, deviceId: 1051, named: 'Cable tension sensor' }]
    const wanted = [pull, { address: '2:in/8+16', type: 'int16' as const }]
    const link = await openMaster(closing, masterSettings(base, { ports }), wanted)
    await link.good(pull.address)
    master.plug(1, new Sensor(surface, 'HS-7'))
    await link.is(pull.address, quality.BadNotConnected)
    const why = link.session.origin(link.handleOf(pull.address))!.fault!
    expect(why).toMatchObject({ code: 'iolink.wrong', what: expect.stringContaining('belongs Cable tension sensor') as string })
    expect(link.port(1)).toMatchObject({ verdict: 'wrong', expected: 'Cable tension sensor' })
    expect(link.told()).toContain('was exchanged for HS-20')
    expect(link.quality('2:in/8+16')).toBe(quality.Good)
    expect(await link.write(pull.address, 1)).toMatchObject({ ok: false })
    master.plug(1, sensors[0]!)
    await link.good(pull.address)
  })

  it('whose device says that its values are none, or that the master is busy, is not good; the others go on', async () => {
    const { base, master, sensors } = await startMaster(closing, tension, angle)
    const link = await openMaster(closing, masterSettings(base), [pull, { address: '2:in/8+16', type: 'int16' }])
    await link.good(pull.address)
    sensors[0]!.isValid = false
    await link.is(pull.address, quality.BadSensorFailure)
    expect(link.quality('2:in/8+16')).toBe(quality.Good)
    sensors[0]!.isValid = true
    await link.good(pull.address)
    master.faults.add('swamped')
    await link.is(pull.address, quality.UncertainLastUsableValue)
    master.faults.clear()
    await link.good(pull.address)
  })

  it('whose device is there and not reached for its values is told as that, and asked ever less often', async () => {
    const { base, master } = await startMaster(closing, tension)
    const patience = { connect: 500, answer: 400, retryFirst: 2000, retryMost: 5000 }
    const link = await openMaster(closing, masterSettings(base, { look: 2000, patience }), [pull])
    await link.good(pull.address)
    master.faults.add('deaf')
    await link.is(pull.address, quality.BadNotConnected)
    expect(link.session.origin(link.handleOf(pull.address))!.fault!.what).toContain('the device is not to be reached')
    await until(() => link.session.status().units![0]!.flow === 'late')
    const before = master.requests
    await new Promise((resolve) => setTimeout(resolve, 1000))
    expect(master.requests - before).toBeLessThan(8)
    master.faults.clear()
    await link.good(pull.address)
  })

  it('keeps nothing good while the master is silent, and goes on when it answers', async () => {
    const { base, master } = await startMaster(closing, tension)
    const link = await openMaster(closing, masterSettings(base), [pull, { address: '1:state', type: 'string' }])
    await link.good(pull.address)
    master.faults.add('silent')
    await link.is(pull.address, quality.BadTimeout)
    await link.is('1:state', quality.BadTimeout)
    expect(link.session.status()).toMatchObject({ flow: 'broken', fault: { code: 'http.silent' } })
    master.faults.clear()
    await link.good(pull.address)
    expect(link.told()).toContain('The master answers again.')
  })

  it('tells where an address does not fit what the device sends', async () => {
    const { base } = await startMaster(closing, tension)
    const link = await openMaster(closing, masterSettings(base), [
      { address: '1:in/40+16', type: 'int16' },
      { address: '1:parameter/18', type: 'int16' },
      { address: '1:parameter/4711', type: 'string' },
      { address: '4:in/0+8', type: 'uint8' },
      { address: '9:in/0+8', type: 'uint8' },
    ])
    await link.is('1:in/40+16', quality.BadIndexRangeNoData)
    await link.is('1:parameter/18', quality.BadTypeMismatch)
    await link.is('1:parameter/4711', quality.BadConfigurationError)
    await link.is('4:in/0+8', quality.BadNotConnected)
    await link.is('9:in/0+8', quality.BadNotConnected)
    const kinds = link.session.findings().map(({ kind }) => kind)
    expect(kinds.sort()).toEqual(['refused', 'refused', 'type'])
    expect(link.session.origin(link.handleOf('9:in/0+8'))!.fault!.what).toContain('the master offers no such port')
  })
})

describe('writing behind a port', () => {
  it('changes its bits of the process data out, and leaves all others as they are', async () => {
    const { base, sensors } = await startMaster(closing, lamp)
    const more = { access: 'readwrite' } as const
    const link = await openMaster(closing, masterSettings(base), [
      { address: '1:out/0+3', type: 'uint8', more },
      { address: '1:out/7+1', type: 'bool', more },
      { address: '1:out/4+1', type: 'bool', more: { access: 'read' } },
    ])
    await link.good('1:out/0+3')
    const outcomes = await Promise.all([link.write('1:out/0+3', 2), link.write('1:out/7+1', true)])
    expect(outcomes).toEqual([{ ok: true }, { ok: true }])
    expect([sensors[0]!.told('Colour'), sensors[0]!.told('Blink'), sensors[0]!.told('Horn')]).toEqual([2, false, true])
    await link.holds('1:out/7+1', true)
    expect(await link.write('1:out/0+3', 8)).toMatchObject({ ok: false, fault: { code: 'write.value' } })
    expect(await link.write('1:out/4+1', true)).toMatchObject({ ok: false, fault: { code: 'write.not-writable' } })
    expect(sensors[0]!.output).toEqual(Uint8Array.of(0x82))
  })

  it('sets parameters, parts of them and texts; what the device refuses is told in words', async () => {
    const { base, sensors } = await startMaster(closing, surface)
    const more = { access: 'readwrite' } as const
    const link = await openMaster(closing, masterSettings(base), [
      { address: '1:parameter/100.1', type: 'int16', more: { ...more, scaling: { gain: 0.1, offset: 0 } } },
      { address: '1:parameter/101', type: 'float32', more },
      { address: '1:parameter/24', type: 'string', more },
      { address: '1:parameter/21', type: 'string', more },
    ])
    for (const { address } of link.points) await link.good(address)
    expect(await link.write('1:parameter/100.1', 61.5)).toEqual({ ok: true })
    expect(sensors[0]!.part(100, 1)).toEqual(Uint8Array.of(0x02, 0x67))
    await link.holds('1:parameter/100.1', 61.5)
    expect(await link.write('1:parameter/101', 0.5)).toEqual({ ok: true })
    await link.holds('1:parameter/101', 0.5)
    expect(await link.write('1:parameter/24', 'Berth 1')).toEqual({ ok: true })
    await link.holds('1:parameter/24', 'Berth 1')
    expect(await link.write('1:parameter/21', 'other')).toMatchObject({ ok: false, fault: { code: 'iolink.refused' } })
  })
})

describe('what devices report', () => {
  it('is told once, by the name that the description has, stands at the port until it is over, and is a tag', async () => {
    const { base, master } = await startMaster(closing, tension)
    master.report(1, 36_001, 'APPEARS')
    const link = await openMaster(closing, masterSettings(base), [{ address: '1:events', type: 'string' }], described(tension))
    await link.holds('1:events', '36001 Overload')
    expect(link.port(1)!.events).toEqual([{ code: 36_001, severity: 'WARNING', text: 'Overload' }])
    await until(() => link.session.status().units![0]!.requests >= 0)
    master.report(1, 36_001, 'DISAPPEARS')
    await link.holds('1:events', '')
    const lines = link
      .told()
      .split('\n')
      .filter((line) => line.includes('36001'))
    expect(lines).toEqual(['Port 1: event 36001, Overload has appeared.', 'Port 1: event 36001, Overload is over.'])
  })
})

describe('events that come, or do not', () => {
  it('of a master that tells none are no good value, and stop nothing else', async () => {
    const { base, master } = await startMaster(closing, tension)
    master.faults.add('eventless')
    const link = await openMaster(closing, masterSettings(base), [{ address: '1:events', type: 'string' }, pull])
    await link.is('1:events', quality.BadNotSupported)
    await link.good(pull.address)
    expect(link.session.origin(link.handleOf('1:events'))!.fault).toMatchObject({ code: 'iolink.refused' })
  })

  it('in a storm are all taken, and told in part', async () => {
    const { base, master } = await startMaster(closing, tension)
    for (let i = 0; i < 60; i++) master.report(1, 40_000 + i, 'APPEARS', 'NOTICE')
    const link = await openMaster(closing, masterSettings(base), [])
    await until(() => link.port(1)?.events.length === 60)
    expect(link.told()).toContain('40 more events came at once.')
    expect(
      link
        .told()
        .split('\n')
        .filter((line) => line.includes('has appeared')),
    ).toHaveLength(20)
  })
})

describe('what arrives', () => {
  it('stands there with what it measures, until somebody takes it', async () => {
    const { base, master, sensors } = await startMaster(closing, tension)
    sensors[0]!.measure('Tension', 12.5)
    const link = await openMaster(closing, masterSettings(base), [], described(tension, surface))
    await until(() => link.port(1)?.items[0]?.text === '12.50')
    expect(link.port(1)).toMatchObject({ verdict: 'arrived', described: { named: 'Cable tension sensor', about: 'Up to 200 kN' } })
    expect(link.port(1)!.items.map(({ name, text, unit, address, type }) => [name, text, unit, address, type])).toEqual([
      ['Tension', '12.50', 'kN', '1:in/16+16', 'int16'],
      ['Temperature', '0', '°C', '1:in/8+8', 'int8'],
      ['State', 'measures', '', '1:in/4+3', 'uint8'],
      ['Slack', 'false', '', '1:in/1+1', 'bool'],
      ['Overload', 'false', '', '1:in/0+1', 'bool'],
    ])
    expect(link.session.status().arrivals).toBe(1)
    const began = Date.now()
    master.plug(3, new Sensor(surface, 'HS-3'))
    await until(() => link.port(3)?.verdict === 'arrived')
    expect(Date.now() - began).toBeLessThan(2000)
    const { device, points } = await link.session.sensorOffer(3)
    expect(device).toMatchObject({ port: 3, vendorId: 2641, deviceId: 1074, named: 'Surface temperature sensor HS-20', when: null })
    expect(points.find(({ name }) => name === 'Temperature')).toMatchObject({ unit: '°C', scaling: { gain: 0.1, offset: 0 }, range: { low: -20, high: 400 } }) // prettier-ignore
    link.session.update({ ...masterSettings(base), ports: [device] })
    await until(() => link.port(3)?.verdict === 'taken')
    expect(link.port(4)!.verdict).toBe('free')
    master.plug(3, null)
    await until(() => link.port(3)?.verdict === 'away')
  })

  it('without a description says so, and offers nothing', async () => {
    const { base } = await startMaster(closing, tension)
    const link = await openMaster(closing, masterSettings(base), [])
    await until(() => link.port(1)?.verdict === 'arrived')
    expect(link.port(1)).toMatchObject({ described: null, items: [], device: { productName: 'HT-40', serialNumber: 'S-1' } })
    await expect(link.session.sensorOffer(1)).rejects.toMatchObject({ code: 'iolink.undescribed' })
    await expect(link.session.sensorOffer(2)).rejects.toMatchObject({ code: 'iolink.empty' })
  })

  it('of which a parameter decides how its data lie, is taken as that is now, and only while it stays so', async () => {
    const twoForms = tension
      .replace('<ProcessData id="P_In">', '<ProcessData id="P_In"><Condition variableId="V_Filter" value="1"/>')
      .replace(
        '<ProcessDataCollection>',
        '<ProcessDataCollection><ProcessData id="P_Raw"><Condition variableId="V_Filter" value="0"/><ProcessDataIn id="PDR" bitLength="32"><Datatype xsi:type="UIntegerT" bitLength="32"/><Name textId="T_PD"/></ProcessDataIn></ProcessData>',
      )
    const { base, sensors } = await startMaster(closing, tension)
    sensors[0]!.parameters.set(81, Uint8Array.of(1))
    const link = await openMaster(closing, masterSettings(base), [pull], described(twoForms))
    await link.good(pull.address)
    const { device, points } = await link.session.sensorOffer(1)
    expect(device.when).toEqual({ index: 81, subindex: 0, value: 1 })
    expect(points.filter(({ room }) => room === 'in').map(({ name }) => name)).toContain('Tension')
    link.session.update({ ...masterSettings(base), ports: [device] })
    sensors[0]!.parameters.set(81, Uint8Array.of(0))
    await link.is(pull.address, quality.BadNotConnected)
    expect(link.session.origin(link.handleOf(pull.address))!.fault!.what).toContain('its parameter 81 is 0, and was 1')
    sensors[0]!.parameters.set(81, Uint8Array.of(1))
    await link.good(pull.address)
  })
})

describe('looking around', () => {
  const branchOf = async (link: Awaited<ReturnType<typeof openMaster>>, address: string) => {
    const browser = link.session.browser()
    if ('code' in browser) throw new Error(browser.what)
    const parts: BranchPart[] = []
    for await (const part of browser.branch({ address, member: '' }, new AbortController().signal)) parts.push(part)
    return parts.flatMap(({ points }) => points)
  }

  it('shows ports, process data and parameters with unit, scale, range and the names of values', async () => {
    const { base, sensors } = await startMaster(closing, tension, lamp)
    sensors[0]!.measure('Tension', 5)
    const link = await openMaster(closing, masterSettings(base), [], described(tension, lamp))
    await until(() => link.port(1)?.verdict === 'arrived')
    const browser = link.session.browser()
    if ('code' in browser) throw new Error(browser.what)
    const names = async (address: string) => (await browser.children({ address, member: '' })).nodes.map(({ name }) => name)
    expect(await names('')).toEqual(['Port 1 Cable tension sensor', 'Port 2 Signal lamp', 'Port 3', 'Port 4'])
    expect(await names('1')).toEqual(['Process data in', 'Parameters', 'Port state', 'Device events'])
    expect(await names('2:out')).toEqual(['Colour', 'Blink', 'Horn'])
    expect(await names('3')).toEqual(['Port state', 'Device events'])
    const [details, colour] = await browser.details([
      { address: '1:in/16+16', member: '' },
      { address: '2:out/0+3', member: '' },
    ])
    expect(details).toMatchObject({ type: 'int16', unit: 'kN', access: 'read', range: { low: -20, high: 200 }, scaling: { gain: 0.01 }, text: '500' }) // prettier-ignore
    expect(colour).toMatchObject({ access: 'readwrite', names: ['off', 'green', 'amber', 'red'].map((name, value) => ({ value, name })) })
    const found = []
    for await (const part of browser.search('slack', new AbortController().signal)) found.push(...part.found)
    expect(found.map(({ address, names: way }) => [address, way.at(-1)])).toEqual([
      ['1:in/1+1', 'Slack'],
      ['1:parameter/80', 'Slack limit'],
    ])
  })

  it('takes a branch: what a port has, with names that make paths', async () => {
    const { base } = await startMaster(closing, surface)
    const link = await openMaster(closing, masterSettings(base), [], described(surface))
    await until(() => link.port(1)?.verdict === 'arrived')
    const points = await branchOf(link, '1')
    expect(points.map(({ names, details }) => `${names.join('/')} ${details.address} ${details.type} ${details.access}`)).toEqual([
      'Process data in/Temperature 1:in/16+16 int16 read',
      'Process data in/Own temperature 1:in/8+8 int8 read',
      'Process data in/State 1:in/4+3 uint8 read',
      'Process data in/Hot 1:in/0+1 bool read',
      'Parameters/Vendor name 1:parameter/16 string read',
      'Parameters/Product name 1:parameter/18 string read',
      'Parameters/Serial number 1:parameter/21 string read',
      'Parameters/Application tag 1:parameter/24 string readwrite',
      'Parameters/Device status 1:parameter/36 uint8 read',
      'Parameters/Limits Hot from 1:parameter/100.1 int16 readwrite',
      'Parameters/Limits Hot until 1:parameter/100.2 int16 readwrite',
      'Parameters/Emissivity 1:parameter/101 float32 readwrite',
      'Port state 1:state string read',
      'Device events 1:events string read',
    ])
    expect(await branchOf(link, '1:in')).toHaveLength(4)
  })
})
