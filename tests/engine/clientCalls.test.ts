import { afterEach, describe, expect, it } from 'vitest'
import type { CallBook } from '#core/calls/callBook'
import { quality } from '#core/tags/quality'
import { tagNamespace } from '#engine/outlets/opcua/addressSpace'
import { freePort } from '../../launcher/ports.mjs'
import { clientOf, openBroker } from '../support/brokerOutlet'
import { closeAll, type Closing } from '../support/engineOn'
import { openHttpOutlet } from '../support/httpOutlet'
import { exceptionOf, foreignClient, openModbusOutlet } from '../support/modbusOutlet'
import { openOutlet, plainClient, watch } from '../support/outlet'
import { until } from '../support/until'

/** What clients of each kind of outlet asked, and what they were given, as the outlet notes it. */

const closing: Closing = []
afterEach(() => closeAll(closing))

const noted = (calls: CallBook, text: string) => calls.page({ text }, 50).calls

describe('clients of OPC UA', () => {
  const open = async () => {
    const port = await freePort()
    const outlet = await openOutlet({ doors: [{ port }], anonymous: [{ folder: '', may: 'read' }] })
    closing.unshift(() => outlet.session.close())
    const power = outlet.tag('berth/1/power', { type: 'float64', writable: true })
    outlet.session.setTags([power], [])
    outlet.table.set(power.handle, 71.5, quality.Good, Date.now())
    outlet.table.flush()
    await until(() => outlet.session.status().flow === 'flowing' && outlet.session.status().sentence.startsWith('Open, no'))
    const client = await plainClient(port, 'Control room')
    closing.unshift(() => client.close())
    return { ...outlet, client, power }
  }

  it('read values, with the quality that they were given', async () => {
    const { client, calls, table, power } = await open()
    await client.value('berth/1/power')
    table.degrade(power.handle, quality.BadNoCommunication, Date.now())
    table.flush()
    await client.value('berth/1/power')
    const reads = noted(calls, 'Read berth/1/power')
    expect(reads.map(({ items }) => [items[0]!.value, items[0]!.status])).toEqual([
      [expect.anything(), 'BadNoCommunication'],
      ['71.5', 'Good'],
    ])
    // what the device does not give is an answer of ours all the same
    expect(reads.map(({ outcome, client: who, ms }) => [outcome, who.name, who.as, ms! >= 0])).toEqual([
      ['well', 'Control room', 'anonymous', true],
      ['well', 'Control room', 'anonymous', true],
    ])
  })

  it('are refused one item among others, and that is named with how often', async () => {
    const { client, calls } = await open()
    const nodes = ['berth/1/power', 'berth/9/power'].map((path) => ({ nodeId: client.node(tagNamespace, path) }))
    for (let n = 0; n < 7; n++) await client.session.read(nodes)
    const [call] = noted(calls, 'berth/9/power')
    expect(call).toMatchObject({ service: 'Read', outcome: 'partly', status: 'Good' })
    expect(call!.items.map(({ status, refused }) => [status, refused])).toEqual([
      ['Good', false],
      ['BadNodeIdUnknown', true],
    ])
    const [dead] = calls.askedInVain(10).items
    expect(dead).toMatchObject({ client: { name: 'Control room' }, why: 'BadNodeIdUnknown', times: 7 })
    expect(dead!.what).toContain('berth/9/power')
    const [total] = calls.totals(Date.now())
    expect(total).toMatchObject({ client: { name: 'Control room' }, measured: { causes: { BadNodeIdUnknown: 7 } } })
  })

  it('write what they may not, and look for what is there', async () => {
    const { client, calls } = await open()
    expect(await client.write(tagNamespace, 'berth/1/power', 5)).toMatch(/^Bad/)
    await client.below('ObjectsFolder')
    const [write] = noted(calls, 'Write power')
    expect(write).toMatchObject({ outcome: 'refused', items: [{ value: '5', refused: true }] })
    expect(noted(calls, 'Browse references')[0]).toMatchObject({ outcome: 'well' })
  })

  it('are told changes by the names of their items, and are told apart from what they asked', async () => {
    const { client, calls, table, power } = await open()
    const seen = await watch(client, client.node(tagNamespace, 'berth/1/power'), 0)
    table.set(power.handle, 99, quality.Good, Date.now())
    table.flush()
    await until(() => seen.length > 1)
    const told = noted(calls, 'Publish 99')
    expect(told[0]).toMatchObject({ isTold: true, ms: null, items: [{ value: '99', status: 'Good' }] })
    expect(told[0]!.items[0]!.what).toContain('berth/1/power')
    expect(noted(calls, 'CreateMonitoredItems')[0]!.items[0]!.value).toMatch(/^each \d/)
    const [total] = calls.totals(Date.now())
    expect(total!.told).toBeGreaterThan(0)
    // a question that waits for the next change is no slow answer
    expect(total!.measured.most).toBeLessThan(5000)
  })

  it('that have no session are noted with where they come from', async () => {
    const { calls, client } = await open()
    expect(noted(calls, 'CreateSession')[0]).toMatchObject({ client: { name: 'Control room', as: 'not signed in' } })
    expect(noted(calls, 'GetEndpoints').length + noted(calls, 'CreateSession').length).toBeGreaterThan(0)
    await client.close()
    await until(() => noted(calls, 'CloseSession').length === 1)
    expect(noted(calls, 'CloseSession')[0]!.client).toMatchObject({ name: 'Control room', as: 'anonymous' })
  })
})

describe('clients of Modbus', () => {
  it('are given registers, with the tags on them', async () => {
    const map = [
      { at: 'holding/0', path: 'berth/1/power', type: 'float32' },
      { at: 'holding/2', path: 'berth/1/current', type: 'int16' },
      { at: 'coil/3', path: 'berth/1/breaker', type: 'bool' },
    ]
    const outlet = await openModbusOutlet(closing, { map, anyone: [{ folder: '', may: 'write' }] })
    outlet.tag('berth/1/power', 71.5, { type: 'float32', writable: true })
    outlet.tag('berth/1/current', -3, { type: 'int16', writable: true })
    outlet.tag('berth/1/breaker', true, { type: 'bool' })
    const client = await foreignClient(closing, outlet.port)
    await client.readHoldingRegisters(0, 3)
    const [read] = noted(outlet.calls, 'read holding')
    expect(read).toMatchObject({ service: 'read holding registers', outcome: 'well', status: 'answered', client: { from: '127.0.0.1' } })
    expect(read!.items.slice(1).map(({ what, value }) => [what, value])).toEqual([
      ['berth/1/power', '71.5'],
      ['berth/1/current', '-3'],
    ])
    await client.readCoils(3, 1)
    expect(noted(outlet.calls, 'read coils breaker')[0]!.items[1]).toMatchObject({ value: 'true' })
    await client.readHoldingRegisters(1, 2)
    expect(noted(outlet.calls, 'read holding')[0]!.items[1]).toMatchObject({ what: 'berth/1/power', value: 'a part of it' })
    for (let n = 0; n < 3; n++) expect(await exceptionOf(client.readHoldingRegisters(500, 1))).toBe(2)
    expect(outlet.calls.askedInVain(1).items[0]).toMatchObject({ what: 'reads holding/500 of unit 1', times: 3, why: expect.stringContaining('exception 2') as string }) // prettier-ignore
    expect(outlet.calls.totals(Date.now())[0]).toMatchObject({ calls: 6, measured: { failures: 3, causes: { 'modbus.exception 2': 3 } } })
  })
})

describe('programs at an HTTP server', () => {
  it('are given tags, and are refused what is not there, one by one', async () => {
    const outlet = await openHttpOutlet(closing, { anonymous: [{ folder: '', may: 'write' }] })
    outlet.tag('berth/1/power', 71.5)
    const agent = { 'user-agent': 'port-office/2' }
    await outlet.ask('/tags/berth/1/power', { headers: agent })
    const [one] = noted(outlet.calls, 'GET 71.5')
    expect(one).toMatchObject({
      service: 'GET /tags/*',
      status: '200',
      outcome: 'well',
      client: { name: 'port-office/2', as: 'without a name' },
    })
    expect(one!.items[1]).toMatchObject({ what: 'berth/1/power', value: '71.5', status: 'Good' })
    await outlet.ask('/tags/berth/9/power', { headers: agent })
    await outlet.send('POST', '/tags/read', { paths: ['berth/1/power', 'berth/9/power'] }, agent)
    const [some, missing] = noted(outlet.calls, 'berth/9/power')
    expect(some).toMatchObject({ service: 'POST /tags/read', outcome: 'partly' })
    expect(some!.items[0]!.value).toBe('sent {"paths":["berth/1/power","berth/9/power"]}')
    expect(missing).toMatchObject({ status: '404', outcome: 'refused' })
    expect(outlet.calls.askedInVain(9).items.map(({ what }) => what)).toEqual(
      expect.arrayContaining(['berth/9/power', 'GET /tags/berth/9/power']),
    )
    const { causes } = outlet.calls.totals(Date.now())[0]!.measured
    expect(causes).toEqual({ 'HTTP 404': 1, 'serve.no-tag': 1 })
  })
})

describe('clients of a broker', () => {
  it('come, listen, send and are sent messages, and are refused what they may not', async () => {
    const outlet = await openBroker(closing, { anonymous: [{ filter: 'berth/#', may: 'listen' }, { filter: 'notes/#', may: 'send' }] }) // prettier-ignore
    const power = outlet.tag('berth/1/power', 71.5)
    const { client, heard } = await clientOf(closing, outlet.port, { clientId: 'gangway-panel' })
    await client.subscribeAsync('berth/#')
    await client.subscribeAsync('secret/#').catch(() => {})
    await client.publishAsync('notes/1', 'hello', { qos: 1 })
    await client.publishAsync('berth/1/power', '5', { qos: 0 })
    outlet.set(power, 80)
    await until(() => heard.length >= 2)
    await until(() => noted(outlet.calls, 'PUBLISH refused berth').length + noted(outlet.calls, 'PUBLISH not berth').length > 0)
    const lines = outlet.calls.page({}, 50).calls.map(({ service, outcome, isTold, items }) => [service, outcome, isTold, items[0]!.what])
    expect(lines).toEqual(
      expect.arrayContaining([
        ['CONNECT', 'well', false, 'as anonymous'],
        ['SUBSCRIBE', 'well', false, 'berth/#'],
        ['SUBSCRIBE', 'refused', false, 'secret/#'],
        ['PUBLISH', 'well', false, 'notes/1'],
        ['PUBLISH', 'refused', false, 'berth/1/power'],
        ['PUBLISH', 'well', true, 'berth/1/power'],
      ]),
    )
    expect(noted(outlet.calls, 'notes/1 hello')[0]).toMatchObject({ client: { name: 'gangway-panel', from: '127.0.0.1', as: 'anonymous' } })
    expect(noted(outlet.calls, 'notes/1')[0]!.ms).toBeGreaterThan(0)
    expect(outlet.calls.totals(Date.now())[0]).toMatchObject({ client: { name: 'gangway-panel' }, measured: { failures: 2 } })
  })
})
