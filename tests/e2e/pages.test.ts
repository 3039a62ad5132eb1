import { readdirSync } from 'node:fs'
import { join } from 'node:path'
import { Key } from 'selenium-webdriver'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import type { Link } from '#shared/links/link'
import type { Tag } from '#shared/tags'
import { barriersOn, colourBarriersOn } from '../support/axe'
import { openBrowser, type Browser } from '../support/browser'
import { startSite, type Site } from '../support/site'
import { until } from '../support/until'

/** Every page with the demo's data: whether everybody can use it, in both themes, and whether something sticks out. */

let site: Site
let page: Browser
let ids: {
  sheet: number
  link: number
  arm: number
  converter: number
  services: number
  sensors: number
  setPoint: number
  panel: number
  tag: number
  outlet: number
  server: number
  broker: number
  bridge: number
  set: number
  equipment: number
  equipmentClass: number
  display: number
}

beforeAll(async () => {
  site = await startSite({ demoData: true, arms: 3 })
  page = await openBrowser(site.base, site.cookie)
  const links = (await site.list('/links')) as Link[]
  const [tag] = (await site.list('/tags?limit=1')) as Tag[]
  const [setPoint] = (await site.list('/tags?find=hall_set_point')) as Tag[]
  const outlets = (await site.list('/outlets')) as { id: number; kind: string }[]
  const outletOf = (kind: string) => outlets.find((outlet) => outlet.kind === kind)!.id
  const [bridge] = (await site.list('/bridges')) as { id: number }[]
  const [set] = (await site.list('/record-sets')) as { id: number }[]
  const [feeder] = (await site.list('/equipment?find=Feeder')) as { id: number }[]
  const [equipmentClass] = (await site.list('/equipment-classes?find=Feeder')) as { id: number }[]
  const [display] = (await site.list('/displays?find=feeder')) as { id: number }[]
  const sheet = (await site.api('/check-sheets', { name: 'Berth 1', against: 'Panel', below: ['berth/1'] }, 'POST')) as {
    body: { id: number }
  }
  const of = (kind: string) => links.find((link) => link.kind === kind)!.id
  ids = {
    link: of('modbus-tcp'),
    arm: of('opcua'),
    converter: of('iso-tcp'),
    services: of('bacnet-ip'),
    sensors: of('iolink'),
    setPoint: setPoint!.id,
    panel: outletOf('modbus-server'),
    tag: tag!.id,
    outlet: outletOf('opcua-server'),
    server: outletOf('http-server'),
    broker: outletOf('mqtt-broker'),
    bridge: bridge!.id,
    set: set!.id,
    equipment: feeder!.id,
    equipmentClass: equipmentClass!.id,
    display: display!.id,
    sheet: sheet.body.id as number,
  }
})
afterAll(async () => {
  await page?.close()
  await site?.stop()
})

/** The pages by their files; those that show one thing, with one of the demo's. */
const addresses = () => {
  const folder = join(import.meta.dirname, '../../app/pages')
  const files = readdirSync(folder, { recursive: true, encoding: 'utf8' }).filter((file) => file.endsWith('.vue'))
  const paths = files.map((file) => `/${file.replace(/(\/?index)?\.vue$/, '')}`)
  const equipment = { '/equipment/classes': ids.equipmentClass, '/equipment': ids.equipment }
  const kinds = {
    ...equipment,
    '/tags/checks': ids.sheet,
    '/displays': ids.display,
    '/links': ids.link,
    '/outlets': ids.outlet,
    '/bridges': ids.bridge,
    '/records': ids.set,
    '/tags': ids.tag,
  }
  const idOf = (path: string) => Object.entries(kinds).find(([start]) => path.startsWith(start))?.[1]
  return [
    ...paths.map((path) => path.replace('[id]', String(idOf(path)))).filter((path) => !['/tags/take', '/wall', '/sign-in'].includes(path)),
    `/tags/take?link=${ids.arm}`,
    '/trends?set=1',
    '/journal/codes?text=5',
    `/links/${ids.arm}/path`,
    '/alarms',
    '/alarms/past',
    `/equipment?at=${ids.equipment}`,
    `/tags?tag=${ids.tag}`,
    `/links/${ids.arm}`,
    '/records/new?kind=query',
    `/outlets/${ids.server}`,
    `/outlets/${ids.server}/settings`,
    `/outlets/${ids.broker}`,
    `/outlets/${ids.panel}`,
    `/outlets/${ids.panel}/map`,
    `/outlets/${ids.panel}/settings`,
    `/outlets/${ids.panel}/card`,
    '/links/new?kind=modbus-line',
    `/links/${ids.converter}/program`,
    `/links/${ids.services}`,
    `/links/${ids.sensors}`,
    `/tags?tag=${ids.setPoint}`,
    `/tags/${ids.setPoint}`,
  ]
}

const settled = async () => {
  await page.driver.wait(() => page.driver.executeScript<boolean>('return document.querySelector("main") !== null'), 15_000)
  // a page within the page comes on its own
  await until(() =>
    page.driver.executeScript<boolean>(
      'return [...document.querySelectorAll("iframe")].every(({ contentDocument: inner }) => inner && inner.readyState === "complete" && inner.body.innerText.length > 100)',
    ),
  )
  // what fades in is looked at when it is there
  await until(() =>
    page.driver.executeScript<boolean>(
      'return !document.getAnimations().some(({ playState, effect }) => playState === "running" && effect.target.closest(".v-overlay"))',
    ),
  )
}

/** Opens a page within the one that is loaded, as a link would: quicker than to load all anew for each. */
const step = async (address: string) => {
  await page.driver.executeScript(
    `if (location.pathname !== arguments[0].split("?")[0]) document.querySelector(".page")?.setAttribute("data-before", "")
    document.querySelector("#__nuxt").__vue_app__.config.globalProperties.$router.push(arguments[0])`,
    address,
  )
  // the page before stays until what the next one asks for is there
  await until(() =>
    page.driver.executeScript<boolean>(
      'return location.pathname + location.search === arguments[0] && !document.querySelector("[data-before]")',
      address,
    ),
  )
  await settled()
}

/** What reaches out of the window to the right, and text that tells of something that is not there. */
const slips = async () => {
  const [wide, text] = await page.driver.executeScript<[boolean, string]>(
    'return [document.documentElement.scrollWidth > document.documentElement.clientWidth, document.body.innerText]',
  )
  return [...(wide ? ['wider than the window'] : []), ...(/\b(undefined|NaN|\[object)\b/.exec(text) ?? [])]
}

/** Turns the page to the other theme. */
const turn = async () => {
  await page.driver.executeScript('document.querySelector("[aria-label=\'Light or dark\']").click()')
  // what is heavy begins to change a few pictures later
  await page.driver.executeAsyncScript(
    'const done = arguments[0]; let left = 3; const next = () => (left-- > 0 ? requestAnimationFrame(next) : done()); next()',
  )
  // colours that still change have the contrast of neither theme
  await until(() =>
    page.driver.executeScript<boolean>(
      'return !document.getAnimations().some((one) => one instanceof CSSTransition && one.playState === "running")',
    ),
  )
}

describe('every page', () => {
  it('has no barrier, in the light and in the dark, and nothing that sticks out', async () => {
    await page.driver.manage().window().setRect({ width: 1280, height: 800 })
    const found: Record<string, string[]> = {}
    await page.go('/')
    await settled()
    let theme = 'bright'
    for (const address of addresses()) {
      await step(address)
      const wrong = [...(await slips()), ...(await barriersOn(page)).map((barrier) => `${theme}: ${barrier}`)]
      await turn()
      // the next page begins in the other theme
      theme = theme === 'bright' ? 'dark' : 'bright'
      wrong.push(...(await colourBarriersOn(page)).map((barrier) => `${theme}: ${barrier}`))
      if (wrong.length > 0) found[address] = wrong
    }
    expect(found).toEqual({})
  }, 1_800_000)

  it('has none on a wall, bright or dark', async () => {
    for (const dark of [false, true]) {
      const made = await site.api('/wall-links', { displayId: ids.display, name: dark ? 'Dark' : 'Bright', dark, days: 1 })
      const { body } = made as { body: { token: string } }
      await page.driver.get('about:blank')
      await page.go(`/wall#${body.token}`)
      await page.sees(/1 of 3/)
      expect([...(await slips()), ...(await barriersOn(page)), ...(await colourBarriersOn(page))]).toEqual([])
    }
  })
})

describe('what opens over a page', () => {
  const barriersAfter = async (path: string, open: () => Promise<unknown>) => {
    await page.load(path)
    await settled()
    await open()
    await until(async () => (await page.driver.executeScript<number>('return document.querySelectorAll(".v-overlay--active").length')) > 0)
    await settled()
    return barriersOn(page)
  }

  it('has no barrier: the finder, the keys, the question before something is removed', async () => {
    const keys = (...all: string[]) =>
      page.driver
        .actions()
        .sendKeys(...all)
        .perform()
    const chord = () => page.driver.actions().keyDown(Key.CONTROL).sendKeys('k').keyUp(Key.CONTROL).perform()
    expect(await barriersAfter('/links', chord)).toEqual([])
    expect(await barriersAfter('/links', () => keys('?'))).toEqual([])
    expect(await barriersAfter(`/links/${ids.link}`, () => page.press('Remove…'))).toEqual([])
  })
})

describe('the line-up', () => {
  it('has each path in one row, from its source to who uses it, and folds what is well once there are more than a dozen', async () => {
    await page.go('/')
    await page.sees('Memory')
    // the demo has more than a dozen paths
    await page.sees('2 × OPC UA')
    await page.press('2 × OPC UA')
    expect(await (await page.row('Cable arm berth 1')).getText()).toMatch(/OPC UA server\n?\s*\d+ clients?/)
    const settings = { host: '127.0.0.1', port: 502 }
    for (let i = 1; i <= 14; i++) await site.api('/links', { name: `Spare pump ${i}`, kind: 'modbus-tcp', on: false, settings })
    await page.sees('14 × Modbus TCP')
    expect(await page.text()).not.toContain('Spare pump 3')
    await page.press('14 × Modbus TCP')
    await page.sees('Spare pump 3')
    await page.press('14 × Modbus TCP')
    await until(page.text, (text) => !text.includes('Spare pump 3'))
  })
})
