import { describe, expect, it } from 'vitest'
import { bacnetSettings } from '#core/bacnet/settings'
import { ioLinkSettings } from '#core/iolink/settings'
import { isoTcpSettings } from '#core/isotcp/settings'
import { linkKinds, protocolOf } from '#core/links/registry'
import { modbusLineSettings } from '#core/modbus/lineSettings'
import { modbusTcpSettings } from '#core/modbus/settings'
import { mqttSettings } from '#core/mqtt/settings'
import { opcuaSettings } from '#core/opcua/settings'
import { statusNames } from '#core/tags/statusNames'

/** What is looked up says what the code does. */

const settings = {
  'modbus-tcp': modbusTcpSettings.parse({ host: 'meters', unit: 7, order: 'CDAB', requests: { registers: 40 } }),
  'modbus-line': modbusLineSettings.parse({ line: { over: 'tcp', host: 'converter' } }),
  'iso-tcp': isoTcpSettings.parse({ host: 'converter' }),
  'bacnet-ip': bacnetSettings.parse({}),
  iolink: ioLinkSettings.parse({ base: 'http://master/iolink/v1', ports: [{ port: 1, vendorId: 2641, deviceId: 1051 }] }),
  opcua: opcuaSettings.parse({ address: 'arm:4840' }),
  mqtt: mqttSettings.parse({ host: 'lamps' }),
}
/** Databases and folders have no addresses. */
const withPoints = linkKinds.filter((kind) => kind in settings) as (keyof typeof settings)[]

describe('the reference', () => {
  it.each(withPoints)('of %s has something in each part', (kind) => {
    const { notation, places, limits, errors } = protocolOf(kind).reference(settings[kind])
    for (const part of [notation, places, limits, errors]) expect(part.length).toBeGreaterThan(0)
    for (const { usual, types } of places) expect(types).toContain(usual)
  })

  it('of Modbus writes addresses that are read as it says', () => {
    const { notation, limits } = protocolOf('modbus-tcp').reference(settings['modbus-tcp'])
    const forms = notation.map(({ form }) => form).filter((form) => /\d/.test(form))
    const facts = forms.map((form) => protocolOf('modbus-tcp').describe(form, settings['modbus-tcp']))
    expect(facts.map((one) => one.ok && one.canonical)).toEqual(['holding/40', 'holding/40', 'holding/40', 'holding/40.3', '12:holding/40'])
    expect(notation.find(({ form }) => form === 'CDAB')!.about).toContain('as this link has it')
    expect(limits.find(({ what }) => what === 'Registers in one request')!.is).toBe('40 on this link, 125 by the standard')
  })

  it('of OPC UA names answers that the standard has, and addresses that can be read', () => {
    const { errors, notation } = protocolOf('opcua').reference(settings.opcua)
    const known = new Set(statusNames.values())
    for (const { code } of errors) expect(known).toContain(code)
    for (const { form } of notation.slice(0, 3)) expect(protocolOf('opcua').describe(form, settings.opcua).ok).toBe(true)
  })
})
