import { Key, By } from 'selenium-webdriver'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import type { Outlet } from '#shared/outlets/outlet'
import { settingsAs } from '#shared/outlets/outlet'
import { Gateway } from '#standins/modbus/gateway'
import { Meter } from '#standins/modbus/meter'
import { Berth } from '#standins/physics/berth'
import { freePort } from '../../launcher/ports.mjs'
import { memoryTag } from '../support/bridgeSite'
import { openBrowser, type Browser } from '../support/browser'
import { closeAll, type Closing } from '../support/engineOn'
import { exceptionOf, foreignClient } from '../support/modbusOutlet'
import { openPort, serialPair } from '../support/serialPair'
import { startSite, type Site } from '../support/site'
import { until } from '../support/until'

/** A panel that knows addresses only gets its values, from a site that has tags and no outlet for it. */

let site: Site
let page: Browser
let port: number
const closing: Closing = []

beforeAll(async () => {
  port = await freePort()
  site = await startSite()
  const tags = [
    memoryTag('berth/1/power', 71.5),
    memoryTag('berth/1/limit', 900, 'float64', { access: 'readwrite' }),
    memoryTag('berth/1/breaker', true, 'bool', { access: 'readwrite' }),
    memoryTag('berth/1/ship', 'Selkie', 'string'),
  ]
  await site.api('/tags', { tags })
  page = await openBrowser(site.base, site.cookie)
})
afterAll(async () => {
  await closeAll(closing)
  await page?.close()
  await site?.stop()
})

const outlet = async () => ((await site.list('/outlets')) as Outlet[]).find(({ kind }) => kind === 'modbus-server')
const keys = (...pressed: string[]) =>
  page.driver
    .actions()
    .sendKeys(...pressed)
    .perform()
const undo = () => page.driver.actions().keyDown(Key.CONTROL).sendKeys('z').keyUp(Key.CONTROL).perform()

describe('a Modbus server', () => {
  it('is opened in a few presses, with a place for every tag', async () => {
    await page.go('/outlets/new')
    await page.pressContaining('Modbus server')
    await page.type('Port', String(port))
    await page.sees(/4 tags without a place[\s\S]*Coils\s*0 to 0[\s\S]*Holding registers\s*0 to 19/)
    await page.press('Give them places')
    await page.press('Open the outlet')
    await page.sees(/Open, nobody connected, 4 entries mapped/)
    const client = await foreignClient(closing, port)
    const words = (await client.readHoldingRegisters(0, 4)).response.body.valuesAsBuffer
    expect([words.readFloatBE(0), words.readFloatBE(4)]).toEqual([900, 71.5])
    await page.sees(/reads holding\/0 to 3 of unit 1/)
    expect(await exceptionOf(client.writeSingleCoil(0, false))).toBe(2)
    await page.sees(/wanted to write berth\/1\/breaker, and may only read it/)
  })

  it('is checked as a client comes', async () => {
    await page.press('Check this door')
    await page.sees(/Answer[\s\S]*answered a read of coil\/0 of unit 1/)
  })

  it('has a map that is changed like a table, says what lies on what, and is saved as it stands', async () => {
    await page.press('Register map')
    await page.sees(/71\.5/)
    await page.driver.findElement(By.css('[role=grid]')).click()
    const cell = (row: number, column: number) => page.driver.findElement(By.css(`[data-row="${row}"][data-column="${column}"]`))
    const rowOf = async (path: string) => {
      const rows = await page.driver.findElements(By.css('[role=rowheader] ~ [data-column="0"]'))
      const texts = await Promise.all(rows.map((row) => row.getText()))
      return texts.findIndex((text) => text.replace(/\s/g, '') === path)
    }
    const at = await rowOf('berth/1/power')
    await (await cell(at, 1)).click()
    await keys('holding/1', Key.ENTER)
    await page.sees('It lies on line 2, limit at holding/0.')
    expect(await page.driver.findElement(By.xpath('//button[normalize-space(.) = "Save the map"]')).isEnabled()).toBe(false)
    await undo()
    await page.sees('Nothing to save')
    await (await cell(at, 1)).click()
    await keys('40101', Key.ENTER)
    await (await cell(at, 4)).click()
    await keys('CDAB', Key.ENTER)
    await page.press('Save the map')
    await page.sees(/The map of “Modbus server” saved: 4 entries/)
    expect(settingsAs('modbus-server', (await outlet())!)!.map.find(({ path }) => path === 'berth/1/power')).toMatchObject({
      at: 'holding/100',
      order: 'CDAB',
    })
    const client = await foreignClient(closing, port)
    const words = (await client.readHoldingRegisters(100, 2)).response.body.valuesAsBuffer
    expect(Buffer.concat([words.subarray(2), words.subarray(0, 2)]).readFloatBE(0)).toBe(71.5)
  })

  it('lets machines write that are listed by their address', async () => {
    const { id } = (await outlet())!
    await page.go(`/outlets/${id}/settings`)
    await page.press('Add machines')
    await page.type('Name 1', 'Control room')
    await page.type('Comes from 1', '127.0.0.300')
    await page.leave('Comes from 1')
    await page.sees('A numeric address')
    await page.type('Comes from 1', '127.0.0.0/8')
    await page.press('Save changes')
    await page.sees(/saved/)
    const client = await foreignClient(closing, port)
    // it is in force a moment after it is saved
    await until(async () => (await exceptionOf(client.writeSingleCoil(0, false))) === null)
    await until(async () => (await client.readCoils(0, 1)).response.body.valuesAsArray[0] === 0)
  })

  it('has a card for whoever sets up the panel', async () => {
    const { id } = (await outlet())!
    await page.go(`/outlets/${id}/card`)
    await page.sees(new RegExp(`127\\.0\\.0\\.1:${port}[\\s\\S]*Holding registers[\\s\\S]*counts from 1`))
  })
})

describe('a serial line', () => {
  it('is linked at its port, says what is wrong with it, and gives a tag', async () => {
    const { near, far } = await serialPair(closing)
    const profile = { voltage: 11_000, load: 800, powerFactor: 0.97, ramp: 1, swing: 0, swingPeriod: 60 }
    const meter = new Meter(3, 1, new Berth(profile, 1000, true), () => 2)
    new Gateway([meter], 1, 'rtu').attend(await openPort(closing, far))
    await page.go('/links/new?kind=modbus-line')
    await page.type('Serial port', 'ttyUSB0')
    await page.leave('Serial port')
    await page.sees('A serial port is a device, such as /dev/ttyUSB0')
    await page.type('Serial port', '/dev/ttyNOPE9')
    await page.sees('This machine has no serial port /dev/ttyNOPE9')
    await page.type('Serial port', near)
    await page.sees(/is open, 19200 8E1[\s\S]*Unit 1 did not reply/)
    await page.type('Unit', '3')
    await page.sees(/unit 3 answered/)
    await page.type('Name', 'Quay line')
    await page.press('Save link')
    await page.sees('Connected, no tags yet')
    await page.go('/tags/new')
    await page.type('Address', 'holding/60')
    await page.sees(/Words? on the wire/)
    await page.choose('Type', 'uint32')
    await page.type('Path', 'line/voltage')
    await page.press('Save tag')
    await page.go('/tags?find=line')
    await page.sees(/voltage[\s\S]*Good/)
  })
})
