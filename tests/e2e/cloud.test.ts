import { mkdtempSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { By } from 'selenium-webdriver'
import { afterAll, beforeAll, expect, it } from 'vitest'
import { tension } from '../../standins/iolink/descriptions/tension'
import { openBrowser, type Browser } from '../support/browser'
import { startSite, type Site } from '../support/site'
import { until } from '../support/until'

/** From an empty site to a platform: a sensor that is plugged in, equipment with its model, and what is seen while nothing is taken. */

let site: Site
let page: Browser
let presses = 0
const folder = mkdtempSync(join(tmpdir(), 'conduit-cloud-'))

beforeAll(async () => {
  site = await startSite()
  page = await openBrowser(site.base, site.cookie)
})
afterAll(async () => {
  await page?.close()
  await site?.stop()
  rmSync(folder, { recursive: true, force: true })
})

const cloud = () => `http://127.0.0.1:${site.cloudPort}`
const counts = async () =>
  (await (await fetch(`${cloud()}/api/counts`)).json()) as { equipment: number; streams: number; values: number; refused: number }
const setFault = (fault: string, on: boolean) => fetch(`${cloud()}/api/fault`, { method: 'POST', body: JSON.stringify({ fault, on }) })
const press = async (label: string) => {
  presses++
  await page.press(label)
}
/** A page that so many presses lead to. */
const goBy = async (count: number, path: string) => {
  presses += count
  await page.go(path)
}

it('brings the values of a plugged sensor into a platform in under a minute and fifteen presses', async () => {
  const began = Date.now()
  await goBy(3, '/links/new?kind=iolink')
  await page.type('Base address', `http://127.0.0.1:${site.sensorPort}/iolink/v1`)
  await page.type('Name', 'Arm sensors')
  await press('Save link')
  await page.sees(/Arrived at port 1/)
  await goBy(3, '/outlets/new?kind=cloud-platform')
  await page.type('Name', 'Port cloud')
  await page.type('Address', `${cloud()}/v1`)
  await page.type('Token', 'harrow-sound-token')
  await press('Open the outlet')
  await page.sees('No equipment or tag is chosen to go there')
  const [link] = (await site.list('/links')) as { id: number }[]
  await goBy(2, `/links/${link!.id}`)
  const file = join(folder, 'tension.xml')
  writeFileSync(file, tension)
  const described = By.css('input[aria-label="Description of the device at port 1"]')
  const [input] = await until(
    () => page.driver.findElements(described),
    (found) => found.length > 0,
  )
  presses++
  await input!.sendKeys(file)
  await page.sees(/Cable tension sensor[\s\S]*Tension[\s\S]*kN/)
  presses += 2
  await page.choose('Its values also go to', 'Port cloud')
  await press('Take it')
  await page.sees(/is taken: \d+ tags/)
  await until(async () => (await counts()).values > 5)
  expect(presses).toBeLessThanOrEqual(15)
  expect(Date.now() - began).toBeLessThan(60_000)
  await page.driver.get(`${cloud()}/`)
  await page.sees(/Arrivals: 5 streams that no equipment has[\s\S]*arm_sensors\/cable_tension_sensor\/tension/)
})

it('makes equipment there as the plan says, once somebody carries it out', async () => {
  const [outlet] = (await site.list('/outlets')) as { id: number }[]
  const pull = 'arm_sensors/cable_tension_sensor/tension'
  await site.api('/equipment-classes', { name: 'Arm', properties: [{ name: 'pull', unit: 'kN', made: { kind: 'input' } }] })
  await site.api('/equipment', { path: 'Berth 1', level: 'area' })
  await site.api('/equipment', { path: 'Berth 1/Arm', class: 'Arm', bindings: { pull } })
  await page.go(`/outlets/${outlet!.id}`)
  await page.sees(/class Arm\s+made\s+not there yet/)
  expect(await counts()).toMatchObject({ equipment: 0 })
  await page.press('Carry out 3 steps')
  await page.sees('As it is here.')
  expect(await counts()).toMatchObject({ equipment: 2 })
  await until(async () => (await counts()).streams === 6)
  await page.driver.get(`${cloud()}/`)
  await page.sees(/Berth 1 area[\s\S]*Arm Arm, work unit[\s\S]*Arm, pull\s+[\d.]+ kN/)
})

it('says what is wrong, what waits and whose side it is on, and has it taken when that is over', async () => {
  const [outlet] = (await site.list('/outlets')) as { id: number }[]
  await setFault('token expired', true)
  await page.go(`/outlets/${outlet!.id}`)
  await page.sees(/does not let us in \(status 401: This token is not, or no longer, good\.\)/)
  await page.press('Walk it now')
  await page.sees(/Let in[\s\S]*HTTP 401/)
  const { values } = await counts()
  await page.sees(/Waiting\s+[1-9]/)
  await setFault('token expired', false)
  await until(async () => (await counts()).values > values)
  await page.go(`/outlets/${outlet!.id}`)
  await page.sees(/Waiting\s+0[\s\S]*Last taken\s+just now/)
  expect(await page.text()).not.toContain('does not let us in')
})
