import { By, Key } from 'selenium-webdriver'
import { afterAll, beforeAll, expect, it } from 'vitest'
import type { Display } from '#shared/displays'
import { openBrowser, type Browser } from '../support/browser'
import { startSite, type Site } from '../support/site'
import { until } from '../support/until'

/** From an empty site: a display for a class, arranged by dragging, and a wall screen that nobody is signed in at. */

let site: Site
let page: Browser
let wall: Browser

beforeAll(async () => {
  site = await startSite()
  page = await openBrowser(site.base, site.cookie)
  wall = await openBrowser(site.base)
  const memory = (path: string, start: number) => ({
    path,
    source: { kind: 'memory', start },
    type: 'float64',
    unit: 'kW',
    access: 'readwrite',
  })
  await site.api('/tags', { tags: [memory('quay/1', 10), memory('quay/2', 20)] })
  await site.api('/recordings', { pattern: '**', how: { kind: 'change' } })
  const properties = [{ name: 'power', title: 'Power', unit: 'kW', made: { kind: 'input' } }]
  await site.api('/equipment-classes', { name: 'Feeder', properties })
  await site.api('/equipment', { path: 'Pier' })
  for (const n of [1, 2]) await site.api('/equipment', { path: `Pier/Feeder ${n}`, class: 'Feeder', bindings: { power: `quay/${n}` } })
})
afterAll(async () => {
  await page?.close()
  await wall?.close()
  await site?.stop()
})
const write = async (path: string, value: number) => {
  const [tag] = (await site.list(`/tags?find=${encodeURIComponent(path)}`)) as { id: number }[]
  await site.api(`/tags/${tag!.id}/value`, { value }, 'PUT')
}
const saved = async () => ((await site.list('/displays')) as Display[])[0]!

it('is made of panes that are filled in, with what is wrong said before it is saved', async () => {
  await page.go('/displays')
  await page.sees('No display yet')
  await page.press('Make a display')
  await page.type('Name', 'One feeder')
  await page.choose('For each equipment of the class', 'Feeder')
  await page.press('+ Value')
  await page.press('Make it')
  await page.sees('Which tag, by its path.')
  await page.type('Of', 'power')
  await page.leave('Of')
  await page.sees(/Power\s+10\s+kW/)
  await page.press('+ Trend')
  await page.type('Of', 'power')
  await page.press('+ Troubles')
  await page.press('Make it')
  await page.sees('Display “One feeder” saved.')
  expect((await saved()).panes).toMatchObject([
    { x: 0, y: 0, w: 2, h: 2, shows: { kind: 'value', of: 'power' } },
    { x: 2, y: 0, w: 6, h: 4, shows: { kind: 'trend', of: ['power'] } },
    { shows: { kind: 'troubles' } },
  ])
})

it('is arranged by dragging and by keys, and every step can be taken back', async () => {
  const { id } = await saved()
  await page.go(`/displays/${id}/edit`)
  await page.sees(/Power\s+10\s+kW/)
  const value = await page.find('.grid-stack-item[data-index="0"]')
  const place = async () => (await Promise.all(['gs-x', 'gs-y', 'gs-w'].map((name) => value.getAttribute(name)))).join()
  const { x, y } = await value.getRect()
  const [left, top] = [Math.round(x) + 60, Math.round(y) + 60]
  const hand = page.driver.actions().move({ x: left, y: top }).press()
  for (const by of [20, 200, 400, 600, 610]) hand.move({ x: left + by, y: top })
  await hand.release().perform()
  await until(async () => (await place()) !== '0,0,2')
  const dragged = await place()
  await page.driver.executeScript('document.querySelector(\'.grid-stack-item[data-index="0"]\').focus()')
  await page.driver.actions().keyDown(Key.ALT).sendKeys(Key.ARROW_RIGHT).keyUp(Key.ALT).perform()
  await until(async () => (await place()).endsWith(',3'))
  await page.press('Undo')
  await until(async () => (await place()) === dragged)
  await page.press('Undo')
  await until(async () => (await place()) === '0,0,2')
  await page.press('Redo')
  await until(async () => (await place()) === dragged)
  await page.press('Save')
  await until(async () => {
    const [pane] = (await saved()).panes
    return `${pane!.x},${pane!.y},${pane!.w}` === dragged
  })
  await page.driver.wait(async () => (await page.driver.getCurrentUrl()).includes(`/displays/${id}`), 10_000)
})

it('is shown for each equipment in turn, live', async () => {
  const { id } = await saved()
  await page.go(`/displays/${id}`)
  await page.sees(/Power\s+10\s+kW/)
  await write('quay/1', 11.5)
  await page.sees(/Power\s+11\.5\s+kW/)
  await page.pressBox('The next equipment (→)')
  await page.sees(/Power\s+20\s+kW/)
  await page.sees('Nothing is in trouble.')
})

it('is shown on a wall by an address of its own, which sees nothing else, until it is taken back', async () => {
  const { id } = await saved()
  await page.go(`/displays/${id}`)
  await page.press('Wall screens')
  await page.type('Name', 'Switch room')
  await page.choose('For', 'Pier/Feeder 2')
  await page.press('Make the address')
  await page.sees('It is shown this once.')
  const address = await (await page.find('.address')).getText()
  await wall.driver.get(address)
  await wall.sees(/One feeder\s+Pier › Feeder 2[\s\S]*Power\s+20\s+kW/)
  await write('quay/2', 22)
  await wall.sees(/Power\s+22\s+kW/)
  expect(await wall.driver.findElements(By.css('.strip'))).toHaveLength(0)
  expect(await wall.driver.findElements(By.css('.pane a'))).toHaveLength(0)
  const asked = await wall.driver.executeScript<number>('return fetch("/api/tags").then((answer) => answer.status)')
  expect(asked).toBe(401)
  await page.press('End it …')
  await page.press('End it')
  await wall.sees('This link shows nothing: it has ended, was taken back, or is not whole.')
})

it('says on the wall that nobody knows what values are, once nobody tells them', async () => {
  const { id } = await saved()
  const made = await site.api('/wall-links', { displayId: id, name: 'Control room', days: 1, turnSeconds: 5 })
  const { body } = made as { body: { token: string } }
  await wall.driver.get('about:blank')
  await wall.go(`/wall#${body.token}`)
  await wall.sees(/1 of 2[\s\S]*Power\s+11\.5\s+kW/)
  await wall.sees(/2 of 2[\s\S]*Power\s+22\s+kW/)
  process.kill(site.pids().engine!, 'SIGSTOP')
  await wall.sees(/No word since \d\d:\d\d:\d\d; what stands here is not what is now/)
  await wall.sees('not known now')
  process.kill(site.pids().engine!, 'SIGCONT')
  await until(wall.text, (text) => !text.includes('No word since'))
})
