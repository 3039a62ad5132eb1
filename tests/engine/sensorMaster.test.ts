import { afterEach, describe, expect, it } from 'vitest'
import { ioLinkSettings } from '#core/iolink/settings'
import { pointOf, typeFor, valueIn } from '#core/iolink/point'
import { formatAddress, parseAddress } from '#core/iolink/address'
import { Master } from '#engine/links/iolink/master'
import { Wire } from '#engine/wire/wire'
import { tension } from '../../standins/iolink/descriptions/tension'
import { SensorMaster } from '../../standins/iolink/master'
import { Sensor } from '../../standins/iolink/sensor'

const closing: (() => unknown)[] = []
afterEach(async () => {
  for (const close of closing.splice(0)) await close()
})

const start = async (more: object = {}, options: { user?: string; password?: string } = {}) => {
  const there = new SensorMaster(options)
  const port = await there.listen(0)
  const sensor = new Sensor(tension, 'HT-0093')
  there.plug(1, sensor)
  const settings = ioLinkSettings.parse({ base: `http://127.0.0.1:${port}/iolink/v1`, patience: { answer: 300, connect: 300 }, ...more })
  const master = new Master(settings, { seal: null, own: null } as never, new Wire())
  closing.push(
    () => master.close(),
    () => there.close(),
  )
  return { there, sensor, master }
}

describe('a master of smart sensors', () => {
  it('tells what it is, what is plugged in where, and when that is pulled', async () => {
    const { there, master } = await start()
    expect(await master.identification()).toMatchObject({ ok: true, value: { vendorName: 'Harrow Sensor Works', productName: 'HM-4' } })
    const states = async () => {
      const asked = await master.ports()
      return asked.ok ? asked.value.map(({ state }) => state) : []
    }
    expect(await states()).toEqual(['DEVICE_ONLINE', 'COMMUNICATION_LOST', 'COMMUNICATION_LOST', 'COMMUNICATION_LOST'])
    expect(await master.device('master1port1')).toMatchObject({ value: { vendorId: 2641, deviceId: 1051, serialNumber: 'HT-0093' } })
    there.plug(1, null)
    expect((await states())[0]).toBe('COMMUNICATION_LOST')
    expect(await master.device('master1port1')).toMatchObject({ ok: false, code: 311, why: { code: 'iolink.refused' } })
  })

  it('gives process data that its description reads', async () => {
    const { sensor, master } = await start()
    sensor.measure('Tension', 83.45)
    sensor.measure('Temperature', -7)
    sensor.values.set('Slack', true)
    const asked = await master.processData('master1port1')
    if (!asked.ok) throw new Error(asked.why.what)
    const { valid, value } = asked.value.getData!.ioLink!
    expect(valid).toBe(true)
    const image = Uint8Array.from(value)
    const at = (address: string, type: 'int16' | 'int8' | 'bool' | 'uint8') =>
      valueIn(pointOf({ address, type, options: {}, access: 'read' })!, image)
    expect([at('1:in/16+16', 'int16'), at('1:in/8+8', 'int8'), at('1:in/1+1', 'bool'), at('1:in/4+3', 'uint8')]).toEqual([
      8345,
      -7,
      true,
      0,
    ])
  })

  it('reads and writes parameters, and says in words what the device refuses', async () => {
    const { master } = await start()
    const product = await master.parameter('master1port1', 18, 0)
    expect(product.ok && Buffer.from(product.value).toString()).toBe('HT-40')
    expect(await master.setParameter('master1port1', 24, 0, Buffer.from('Berth 2'))).toMatchObject({ ok: true })
    const tag = await master.parameter('master1port1', 24, 0)
    expect(tag.ok && Buffer.from(tag.value).toString()).toBe('Berth 2')
    expect(await master.setParameter('master1port1', 21, 0, Buffer.from('x'))).toMatchObject({ ok: false, code: 314 })
    const missing = await master.parameter('master1port1', 4711, 0)
    expect(!missing.ok && missing.why.what).toContain('no parameter of this index')
  })

  it('that is silent, is no master, or does not know us, is told as that', async () => {
    const { there, master } = await start()
    there.faults.add('silent')
    expect(await master.ports()).toMatchObject({ ok: false, isAway: true, why: { code: 'http.silent' } })
    there.faults.clear()
    there.faults.add('text')
    expect(await master.ports()).toMatchObject({ ok: false, why: { code: 'iolink.malformed', side: 'device' } })
    const guarded = await start({}, { user: 'port', password: 'harrow' })
    expect(await guarded.master.ports()).toMatchObject({ ok: false, code: 104 })
  })
})

describe('addresses behind a port', () => {
  it.each(['1:in/16+16', '4:out/0+1', '2:parameter/80', '2:parameter/80.2', '2:parameter/80.2/4+3', '3:state'])('%s is one', (address) => {
    const parsed = parseAddress(address)
    if (!parsed.ok) throw new Error(parsed.problem)
    expect(formatAddress(parsed.address)).toBe(address)
  })

  it.each(['', '1', '0:in/0+1', '1:in/0+0', '1:in/250+16', '1:parameter/70000', '1:parameter/8.300'])('“%s” is none', (address) =>
    expect(parseAddress(address)).toMatchObject({ ok: false }),
  )

  it('fit the types that hold them', () => {
    const fits = (address: string, type: 'int16' | 'int8' | 'bool' | 'float32' | 'string') =>
      pointOf({ address, type, options: {}, access: 'read' }) !== null
    expect([fits('1:in/0+12', 'int16'), fits('1:in/0+12', 'int8'), fits('1:in/0+1', 'bool'), fits('1:in/0+2', 'bool')]).toEqual([
      true,
      false,
      true,
      false,
    ])
    expect([fits('1:in/0+32', 'float32'), fits('1:in/0+16', 'float32'), fits('1:state', 'string')]).toEqual([true, false, true])
    expect(typeFor({ kind: 'int', bits: 14, names: [], range: null })).toBe('int16')
    expect(typeFor({ kind: 'uint', bits: 3, names: [], range: null })).toBe('uint8')
  })
})
