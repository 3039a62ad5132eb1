import { mkdtempSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { strToU8, zipSync } from 'fflate'
import { By } from 'selenium-webdriver'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { ioLinkSettings } from '#core/iolink/settings'
import type { Link } from '#shared/links/link'
import type { EngineStatus } from '#shared/status'
import type { Tag } from '#shared/tags'
import { descriptionFiles, surface } from '../../standins/iolink/descriptions/devices'
import { tension } from '../../standins/iolink/descriptions/tension'
import { openBrowser, type Browser } from '../support/browser'
import { startSite, type Site } from '../support/site'
import { until } from '../support/until'

/** Smart sensors from an empty site: a master, a sensor that nobody knows, its description, and tags that flow. */

let site: Site
let page: Browser
const folder = mkdtempSync(join(tmpdir(), 'conduit-descriptions-'))

beforeAll(async () => {
  site = await startSite()
  page = await openBrowser(site.base, site.cookie)
})
afterAll(async () => {
  await page?.close()
  await site?.stop()
  rmSync(folder, { recursive: true, force: true })
})

const linkOf = async () => ((await site.list('/links')) as Link[])[0]!
const choose = async (label: string, name: string, content: string | Uint8Array) => {
  const file = join(folder, name)
  writeFileSync(file, content)
  const [input] = await until(
    () => page.driver.findElements(By.css(`input[aria-label="${label}"]`)),
    (found) => found.length > 0,
  )
  await input!.sendKeys(file)
}

describe('smart sensors', () => {
  it('are found at the ports of a master, which the check walks to; a wrong address is told as that', async () => {
    await page.go('/links/new?kind=iolink')
    await page.type('Base address', `http://127.0.0.1:${site.sensorPort}/wrong`)
    await page.sees(/there is nothing at this address/)
    await page.type('Base address', `http://127.0.0.1:${site.sensorPort}/iolink/v1`)
    await page.sees(/HM-4, of Harrow Sensor Works[\s\S]*1 works; 2 works; 3 nothing is plugged in/)
    await page.type('Name', 'Arm sensors')
    await page.press('Save link')
    await page.sees(/Arrived at port 1[\s\S]*HT-40/)
    await page.sees('its description is not loaded')
  })

  it('show what they measure as soon as their description is loaded, and flow with one more press', async () => {
    await choose('Description of the device at port 1', 'tension.xml', tension)
    await page.sees(/Cable tension sensor[\s\S]*Tension[\s\S]*kN/)
    await page.press('Take it')
    await page.sees(/Cable tension sensor is taken: 5 tags/)
    const [pull] = (await site.list('/tags?find=tension')) as Tag[]
    expect(pull).toMatchObject({
      ...{ path: 'arm_sensors/cable_tension_sensor/overload', type: 'bool' },
      source: { address: '1:in/0+1' },
    })
    await until(async () => {
      const { links } = (await site.api('/status')) as EngineStatus
      return links[0]!.tags === 5 && links[0]!.goodTags === 5
    })
    const { ports } = ioLinkSettings.parse((await linkOf()).settings)
    expect(ports).toMatchObject([{ port: 1, vendorId: 2641, deviceId: 1051, named: 'Cable tension sensor HT-40' }])
    // the sheet knows of it, so that nobody overwrites it unseen
    await page.sees('1 port taken')
  })

  it('that are plugged in stand in Arrivals, on the strip and in the list of links within seconds', async () => {
    const link = await linkOf()
    await page.go('/site/devices')
    await choose('Files with descriptions of devices', 'all.zip', zipSync(Object.fromEntries(Object.entries(descriptionFiles).map(([name, text]) => [name, strToU8(text)])))) // prettier-ignore
    await page.sees('4 descriptions loaded.')
    await page.sees(/Surface temperature sensor 2641\/1074[\s\S]*V1\.0, 2026-05-11/)
    await page.go(`/links/${link.id}`)
    await site.plug(3, 3)
    await page.sees(/Arrived at port 3[\s\S]*Surface temperature sensor[\s\S]*Infrared/)
    await page.sees(/2 arrived/)
    await page.go('/links')
    await page.sees('2 devices arrived')
  })

  it('of another kind in a known port are told, none of its tags is good, until the right one is back', async () => {
    const link = await linkOf()
    await page.go(`/links/${link.id}`)
    await site.plug(1, 4)
    await page.sees(/Another device at port 1[\s\S]*belongs Cable tension sensor HT-40, and HL-3 of Harrow Sensor Works is plugged in/)
    await until(async () => ((await site.api('/status')) as EngineStatus).links[0]!.goodTags === 0)
    await site.plug(1, 1)
    await until(async () => ((await site.api('/status')) as EngineStatus).links[0]!.goodTags === 5)
    await until(async () => !(await page.driver.findElement(By.css('body')).getText()).includes('Another device'))
  })

  it('are described by files that can be read only; others change nothing and are told by line', async () => {
    await page.go('/site/devices')
    await choose('Files with descriptions of devices', 'broken.xml', surface.replace('<DeviceFunction>', '<DeviceFunction'))
    await page.sees(/“broken\.xml” is no description of a device that can be read here: line \d+/)
    await page.choose('Language of Cable tension sensor 2641/1051', 'de')
    await page.sees('Seilzugsensor 2641/1051')
    expect(await site.list('/device-descriptions')).toHaveLength(4)
  })
})
