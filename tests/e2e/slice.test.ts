import { mkdtempSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { AttributeIds, DataType, OPCUAClient } from 'node-opcua'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { CaptureWriter } from '#core/traffic/capture/written'
import type { Link } from '#shared/links/link'
import type { EngineStatus } from '#shared/status'
import type { Tag } from '#shared/tags'
import { openBrowser, type Browser } from '../support/browser'
import { startSite, type Site } from '../support/site'
import { until } from '../support/until'
import { pointBody } from '../support/tagBodies'

/** From an empty site to a SCADA client, as an integrator would go; each test goes on where the last one ended. */

let site: Site
let page: Browser

beforeAll(async () => {
  site = await startSite()
  page = await openBrowser(site.base, site.cookie)
})
afterAll(async () => {
  await page?.close()
  await site?.stop()
})

const withClient = async <T>(
  work: (
    read: (path: string) => Promise<number>,
    write: (path: string, value: number) => Promise<string>,
    browse: (path: string) => Promise<string[]>,
  ) => Promise<T>,
) => {
  const client = OPCUAClient.create({ endpointMustExist: false, connectionStrategy: { maxRetry: 3 }, applicationName: 'Control room A' })
  await client.connect(`opc.tcp://127.0.0.1:${site.opcuaPort}`)
  const session = await client.createSession()
  await session.readNamespaceArray()
  const node = (path: string) => `ns=${session.getNamespaceIndex('urn:keen-conduit:tags')};s=${path}`
  try {
    return await work(
      async (path) => (await session.read({ nodeId: node(path), attributeId: AttributeIds.Value })).value.value as number,
      async (path, value) =>
        (
          await session.write({
            nodeId: node(path),
            attributeId: AttributeIds.Value,
            value: { value: { dataType: DataType.Float, value } },
          })
        ).name,
      async (path) => (await session.browse(node(path))).references!.map(({ browseName }) => browseName.name!),
    )
  } finally {
    await session.close()
    await client.disconnect()
  }
}

describe('from an empty site', () => {
  it('asks what to connect first', async () => {
    await page.go('/')
    await page.sees('What do you want to connect first?')
    await page.pressContaining('Meters, drives')
    await page.sees('New Modbus TCP link')
  })

  it('tells of a bad port while it is typed, and saves nothing', async () => {
    await page.type('Name', 'Feeder meters')
    await page.type('Host', '127.0.0.1')
    await page.type('Port', '70000')
    await page.leave('Port')
    await page.sees('A TCP port is 1 to 65535.')
    await page.type('Unit', '300')
    await page.leave('Unit')
    await page.sees('A unit is a whole number from 0 to 255.')
    await page.press('Save link')
    await page.sees('Nothing saved: 2 fields need another value.')
    expect(await site.list('/links')).toEqual([])
  })

  it('checks the link beside the sheet: a wrong port is named, the right one answers', async () => {
    await page.type('Unit', '11')
    await page.type('Port', '1')
    await page.sees('127.0.0.1 is there and refuses port 1.')
    await page.sees('on the device’s side')
    await page.type('Port', String(site.modbusPort))
    await page.sees('The device answers. It can be saved.')
    await page.sees(/First reply\s+unit 11 answered/)
    await page.press('Save link')
    await page.sees('Link “Feeder meters” saved.')
    expect(await site.list('/links')).toMatchObject([{ name: 'Feeder meters', settings: { port: site.modbusPort, unit: 11 } }])
  })

  it('refuses a second link of the same name at its field', async () => {
    await page.go('/links/new?kind=modbus-tcp')
    await page.type('Name', 'FEEDER meters')
    await page.type('Host', 'elsewhere')
    await page.press('Save link')
    await page.sees('There is a link called “')
    expect(await site.list('/links')).toHaveLength(1)
  })
})

describe('tags', () => {
  it('shows an address in both notations and every reading of its words before anything is made', async () => {
    await page.driver.executeScript('window.onbeforeunload = null')
    await page.go('/links')
    await page.driver
      .switchTo()
      .alert()
      .accept()
      .catch(() => {})
    await page.go('/tags/new')
    await page.type('Path', 'berth/1/shore/active_power')
    await page.type('Address', '40041')
    await page.sees('40041 counts from 1, so it is offset 40 in the frame.')
    await page.sees(/offset in the frame, from 0\s+holding\/40/)
    await page.sees(/reference from 1, 6 digits\s+400041/)
    await page.sees('float32 CDAB')
  })

  it('takes the reading that matches the meter, and shows the value live', async () => {
    const row = await page.row('float32 CDAB')
    await (await row.findElement({ css: 'button' })).click()
    await until(
      () => page.text(),
      (text) => /Read as float32, CDAB/.test(text),
    )
    await page.press('Save tag')
    await page.sees('Tag berth/1/shore/active_power saved.')
    await page.sees('How this value is made')
    await page.sees(/float32 CDAB[^\d]*[\d.]+\s+in use/)
    const power = (await site.channel(11, 'active_power')) as number
    const [tag] = ((await site.api('/tags')) as { items: Tag[] }).items
    expect(tag).toMatchObject({ type: 'float32', source: { address: 'holding/40', options: { order: 'CDAB' } } })
    await until(
      async () => Number((await (await page.find('.panel .value strong')).getText()).replace(/\s/g, '')),
      (shown) => Math.abs(shown - power) / power < 0.1,
    )
    await page.sees('Good')
  })

  it('refuses a gain of 0, a short interval, a 64-bit value at the end and a string without length, at their fields', async () => {
    await page.go('/tags/new')
    await page.type('Path', 'bad')
    await page.type('Address', 'holding/65534')
    await page.choose('Type', 'float64')
    await page.choose('Scaled', 'gain and offset')
    await page.type('Gain', '0')
    await page.type('Read every', '5')
    await page.press('Save tag')
    await page.sees('float64 covers 4 registers, offsets 65534 to 65537, and a table ends at 65535.')
    await page.sees('A gain of 0 would make every value the same.')
    await page.sees('An interval is 10 to 86,400,000 ms.')
    await page.choose('Type', 'string')
    await page.type('Length', '0')
    await page.sees('A string needs a length of 1 to 250 bytes')
    await page.type('Address', '466000')
    await page.sees('Offset 65999 is past the end')
    expect(((await site.api('/tags')) as { total: number }).total).toBe(1)
  })

  it('refuses a path that is taken', async () => {
    const [tag] = ((await site.api('/tags')) as { items: Tag[] }).items
    const { id: _id, revision: _revision, ...draft } = tag!
    expect(await site.api('/tags', { tags: [draft] })).toMatchObject({
      status: 409,
      body: { fault: { code: 'entry.taken' }, fields: [{ path: 'tags.0.path' }] },
    })
  })

  it('writes a value that arrives in the stand-in, and shows one that is changed there', async () => {
    const [link] = (await site.list('/links')) as Link[]
    const draft = pointBody({
      path: 'berth/1/shore/trip_limit',
      linkId: link!.id,
      address: '400091',
      type: 'float32',
      options: { order: 'CDAB' },
      access: 'readwrite',
      unit: 'kW',
    })
    await site.api('/tags', { tags: [draft] })
    await page.go('/tags')
    await (await page.row('trip_limit')).click()
    await page.type('New value', '1750.5')
    await page.press('Write')
    await page.sees('Written. The device now holds 1750.5 kW.')
    expect(await site.channel(11, 'trip_limit')).toBe(1750.5)
    await site.setChannel(11, 'trip_limit', 1600)
    await until(
      async () => (await page.find('.panel .value strong')).getText(),
      (text) => text === '1600',
    )
    await page.type('New value', 'much')
    await page.press('Write')
    await page.sees('“much” is no float32')
    expect(await site.channel(11, 'trip_limit')).toBe(1600)
  })

  it('says so when two people save the same tag, and loses neither', async () => {
    const { items: tags } = (await site.api('/tags?find=trip_limit')) as { items: Tag[] }
    const { id, revision, ...draft } = tags[0]!
    await page.go(`/tags/${id}`)
    await page.type('Description', 'mine')
    await site.api(`/tags/${id}`, { revision, tag: { ...draft, description: 'theirs' } }, 'PUT')
    await page.press('Save changes')
    await page.sees('after you opened it.')
    expect(await page.valueOf('Description')).toBe('mine')
    expect(await site.api(`/tags/${id}`)).toMatchObject({ description: 'theirs' })
    await page.press('Save mine over it')
    await page.sees('trip_limit saved.')
    expect(await site.api(`/tags/${id}`)).toMatchObject({ description: 'mine' })
  })
})

describe('the outlet', () => {
  it('is opened on a sheet, and any OPC UA client finds the same folders and values', async () => {
    await page.go('/outlets/new?kind=opcua-server')
    await page.type('Port', String(site.opcuaPort))
    await page.choose('Rights of anonymous clients, folder 1 may be', 'read, write where mapped')
    await page.press('Open the outlet')
    await page.sees('no client connected')
    await withClient(async (read, write, browse) => {
      expect(await browse('berth/1/shore/')).toEqual(expect.arrayContaining(['active_power', 'trip_limit']))
      expect(await read('berth/1/shore/trip_limit')).toBe(1600)
      expect(await read('berth/1/shore/active_power')).toBeCloseTo((await site.channel(11, 'active_power')) as number, -2)
      expect(await write('berth/1/shore/trip_limit', 1700)).toBe('Good')
      expect(await site.channel(11, 'trip_limit')).toBe(1700)
      expect(await write('berth/1/shore/active_power', 1)).toBe('BadNotWritable')
      await page.sees('Control room A')
      await page.sees(/anonymous\s*not secured/)
    })
    await page.sees('Nobody is connected.')
  })

  it('shows in the line-up with what feeds it', async () => {
    await page.go('/')
    const row = await page.row('Feeder meters')
    await until(
      () => row.getText(),
      (text) => text.includes('2 of 2') && text.includes('OPC UA server'),
    )
    expect(await row.findElement({ css: 'svg.pipe' }).getAttribute('aria-label')).toBe('flowing')
  })
})

describe('traffic', () => {
  it('shows the frames of a link while it is looked at, and the bytes of one, to whoever may configure', async () => {
    await page.go('/links')
    await (await page.row('Feeder meters')).click()
    await page.press('Its traffic')
    await page.sees(/[1-9]\d* frames/)
    await page.sees(/sent\s+read holding\/\d+.* of unit 11\s+12 B/)
    await page.sees(/came\s+\d+ words? ← read holding\/\d+.* of unit 11\s+[\d.]+ ms/)
    await page.press('Hold')
    await page.sees('held')
    await (await page.find('.slot:nth-child(2)')).click()
    await page.sees(/protocol\s+00 00\s+Modbus/)
    await page.sees(/function\s+03\s+read holding registers/)
    // the one that it belongs to, and all whose field says the same
    await (await page.find('.opened .partner')).click()
    await page.sees(/(Request|Answer) of /)
    await (await page.find('tbody tr:nth-child(1) .only')).click()
    await page.sees(/2 of [\d,]+ frames/)
    await page.press('All of them')
    await page.type('Filter by words', 'nothing says that')
    await page.sees('Nothing of it is as the filter wants it.')
    await page.type('Filter by words', '')
    await page.press('Go on')
    await page.press('Clear')
    await page.sees(/came\s+\d+ words?/)
  })

  it('of a file is put together, read and filtered on the page', async () => {
    const connection = { id: 1, here: '10.8.0.9:50001', peer: '10.8.0.4:1502', kind: 'modbus-tcp', asks: true }
    const writer = new CaptureWriter(new Map([[1, connection]]))
    const frame = (at: number, out: boolean, bytes: number[]) => ({
      at,
      connection: 1,
      out,
      length: bytes.length,
      bytes: Uint8Array.from(bytes),
    })
    const frames = [frame(1000, true, [0, 7, 0, 0, 0, 6, 13, 3, 0, 105, 0, 1]), frame(1006.5, false, [0, 7, 0, 0, 0, 3, 13, 0x83, 2])]
    const file = join(mkdtempSync(join(tmpdir(), 'conduit-')), 'elsewhere.pcapng')
    writeFileSync(file, Buffer.concat([...writer.begin('modbus-tcp', 'elsewhere'), ...frames.flatMap((one) => writer.packets(one))]))
    await page.go('/traffic')
    await page.sees('Choose a link or an outlet')
    await (await page.driver.findElement({ css: 'input[type=file]' })).sendKeys(file)
    await page.sees(/10\.8\.0\.9:50001\s+10\.8\.0\.4:1502/)
    await page.sees(/came\s+exception 2, ILLEGAL DATA ADDRESS ← read holding\/105 of unit 13\s+6\.5 ms/)
    await (await page.find('.slot:nth-child(2)')).click()
    await page.press('Why, and what to do')
    await page.sees('ILLEGAL DATA ADDRESS')
    rmSync(file)
  })
})

describe('killed with -9', () => {
  it('the engine comes back with the same configuration, and the page says what happened meanwhile', async () => {
    await page.go('/tags')
    await page.sees('trip_limit')
    const killed = site.kill('engine')
    await page.sees('The engine does not answer; it is being brought back')
    await killed
    await until(
      () => page.text(),
      (text) => !text.includes('The engine does not answer'),
    )
    await until(async () => ((await site.api('/status')) as Partial<EngineStatus>).outlets?.[0]?.flow === 'flowing')
    await withClient(async (read) => {
      await until(
        () => read('berth/1/shore/trip_limit'),
        (value) => value === 1700,
      )
    })
    await page.sees('1700')
  })

  it.each(['web', 'stand-ins', 'database'])('%s comes back, and the others went on', async (name) => {
    const others = Object.entries(site.pids()).filter(([other]) => other !== name)
    await site.kill(name)
    await until(async () => {
      const status = (await site.api('/status').catch(() => null)) as { links?: { goodTags: number }[]; databaseConnected?: boolean } | null
      return status?.databaseConnected && status.links?.[0]?.goodTags === 2
    })
    expect(Object.entries(site.pids())).toEqual(expect.arrayContaining(others))
    await until(
      () => site.list('/links').catch(() => []),
      (links) => Array.isArray(links) && links.length === 1,
    )
    await page.sees('trip_limit')
  })
})

describe('revisions', () => {
  it('take a removal back, from the notice under the page', async () => {
    await page.go('/tags')
    await (await page.row('active_power')).click()
    await page.press('Remove')
    await page.sees('Tag berth/1/shore/active_power removed.')
    await until(
      async () => ((await site.api('/tags')) as { total: number }).total,
      (total) => total === 1,
    )
    await page.press('Take it back')
    await page.sees('Taken back.')
    await until(
      async () => ((await site.api('/tags')) as { total: number }).total,
      (total) => total === 2,
    )
  })
})

describe('a tag in memory', () => {
  it('is made without a link, written by a page and by a client, and has its value after kill -9', async () => {
    await page.go('/tags/new')
    await page.choose('Values from', 'Memory')
    await page.type('Path', 'port/tariff/night')
    await page.choose('Type', 'float32')
    await page.type('Starts with', 'dear')
    await page.press('Save tag')
    await page.sees('“dear” is no float32')
    await page.type('Starts with', '0.25')
    await page.press('Save tag')
    await page.sees('Tag port/tariff/night saved.')
    await page.sees('Starts with')
    await page.type('New value', '0.5')
    await page.press('Write')
    await page.sees('The tag now holds 0.5')
    await withClient(async (read, write) => {
      expect(await read('port/tariff/night')).toBe(0.5)
      expect(await write('port/tariff/night', 0.75)).toBe('Good')
    })
    await page.sees(/written by .*anonymous/)
    await site.kill('engine')
    await until(async () => ((await site.api('/status')) as Partial<EngineStatus>).outlets?.[0]?.flow === 'flowing')
    await withClient((read) =>
      until(
        () => read('port/tariff/night'),
        (value) => value === 0.75,
      ),
    )
    await page.choose('Source', 'Memory')
    await page.sees('1 tag match')
  })
})
