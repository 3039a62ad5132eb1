import { afterAll, beforeAll, expect, it } from 'vitest'
import type { Tag } from '#shared/tags'
import { openBrowser, type Browser } from '../support/browser'
import { startSite, type Site } from '../support/site'
import { until } from '../support/until'

/** From an empty site: a limit on a tag’s sheet, its alarm in the list, and somebody who saw it. */

let site: Site
let page: Browser
let tag: Tag

beforeAll(async () => {
  site = await startSite()
  page = await openBrowser(site.base, site.cookie)
  const drafts = [{ path: 'tank/level', source: { kind: 'memory', start: 50 }, type: 'float64', unit: '%', access: 'readwrite' }]
  await site.api('/tags', { tags: drafts })
  ;[tag] = (await site.list('/tags')) as [Tag]
})
afterAll(async () => {
  await page?.close()
  await site?.stop()
})
const write = (value: number) => site.api(`/tags/${tag.id}/value`, { value }, 'PUT')

it('takes a limit on the sheet of a tag, and says as one types what is wrong with it', async () => {
  await page.go('/alarms')
  await page.sees('No tag has limits yet')
  await page.go(`/tags/${tag.id}`)
  await page.pressContaining('none: no value is an alarm')
  await page.press('Add a limit')
  await page.type('At', '80')
  await page.press('Add a limit')
  await page.sees(/Limits\s+high 80; low …/)
  await page.press('Save changes')
  await page.sees('A limit is a number.')
  await page.driver.executeScript("document.querySelectorAll('fieldset.framed button')[1].click()")
  await page.sees(/Limits\s+high 80\s/)
  await page.press('Save changes')
  await page.sees('saved')
  const [saved] = (await site.list('/tags')) as [Tag]
  expect(saved.limits).toMatchObject([{ kind: 'high', at: 80, severity: 'caution', acknowledge: true }])
})

it('shows what is beyond it on the strip and in the list, until it is over and somebody said that it was seen', async () => {
  await page.go('/alarms')
  await page.sees('Nothing is beyond its limits')
  await write(85)
  await page.sees(/1 active · 1 unseen/)
  await page.sees(/active\s+caution\s+tank\/level\s+high: above 80 %, 85 %/)
  await page.press('Acknowledge…')
  await page.type('What is to be known of it; may stay empty', 'Pump 2 takes over')
  await page.press('Acknowledge')
  await page.sees('1 alarm acknowledged.')
  await page.sees(/Pump 2 takes over/)
  await write(60)
  await page.sees('Nothing is beyond its limits')
  await page.press('What became of earlier ones')
  await page.sees(/high\s+over\s+60[\s\S]*high\s+seen by somebody\s+Pump 2 takes over[\s\S]*high\s+raised\s+high: above 80 %, 85 %/)
})

it('has a flood acknowledged at once, also what does not stand in the list', async () => {
  const flood = Array.from({ length: 130 }, (_, i) => ({ path: `pump/${i}`, source: { kind: 'memory', start: 90 }, type: 'float64', limits: [{ kind: 'high', at: 80 }] })) // prettier-ignore
  await site.api('/tags', { tags: flood })
  await page.go('/alarms')
  await page.sees('and 30 more; the filter finds them.')
  await page.driver.executeScript("document.querySelector('th.box input').click()")
  await page.press('Acknowledge all 130…')
  await page.sees('130 alarms seen')
  await page.press('Acknowledge')
  await page.sees('130 alarms acknowledged.')
  await page.press('Show more')
  await until(async () => !(await page.text()).includes('more; the filter'))
  await page.sees(/pump\/129[\s\S]*admin/)
})
