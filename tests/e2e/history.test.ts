import { Key } from 'selenium-webdriver'
import { afterAll, beforeAll, expect, it } from 'vitest'
import type { Tag } from '#shared/tags'
import { openBrowser, type Browser } from '../support/browser'
import { startSite, type Site } from '../support/site'
import { until } from '../support/until'

/** From an empty site: a tag is recorded and drawn; a class, a piece of equipment, a rollup that can be drawn, too. */

let site: Site
let page: Browser
let tag: Tag

beforeAll(async () => {
  site = await startSite()
  page = await openBrowser(site.base, site.cookie)
  const source = { kind: 'signal', shape: 'sine', low: 100, high: 300, cycle: 10_000, every: 100 }
  const drafts = [{ path: 'berth/1/power', source, type: 'float64', unit: 'kW' }]
  await site.api('/tags', { tags: drafts })
  ;[tag] = (await site.list('/tags')) as [Tag]
})
afterAll(async () => {
  await page?.close()
  await site?.stop()
})

it('records what is asked for, and draws it at once', async () => {
  await page.go('/trends')
  await page.sees('Nothing is drawn yet')
  await page.press('What is recorded')
  await page.press('Record tags')
  await page.type('Which tags', 'berth/**')
  await page.sees('1 tag')
  await page.press('Save')
  await page.sees('every change')
  await page.sees(/1 tag recorded/)
  await page.go(`/trends?tags=${tag.id}`)
  await page.sees('every sample')
  const least = async () => Number(/berth\/1\/power\s+kW\s+([\d.]+)/.exec(await page.text())?.[1] ?? NaN)
  await until(async () => (await least()) < 200)
  expect(await least()).toBeGreaterThanOrEqual(100)
})

it('shows texts, and what values are called, as what they were when', async () => {
  const memory = (path: string, type: string, start: unknown, more = {}) => ({ path, source: { kind: 'memory', start }, type, ...more })
  const names = { names: [{ value: 30, name: 'ramps' }] }
  await site.api('/tags', { tags: [memory('berth/1/ship', 'string', 'Harrow Maid'), memory('berth/1/state', 'int16', 30, names)] })
  const tags = (await site.list('/tags?find=berth/1/s')) as Tag[]
  await page.go(`/trends?tags=${tags.map(({ id }) => id).join()}`)
  await page.sees(/berth\/1\/ship[\s\S]*every change/)
  const canvas = await page.find('.picture canvas')
  await until(async () => {
    const { width } = await canvas.getRect()
    await page.driver
      .actions()
      .move({ origin: canvas, x: Math.round(width / 2) - 20, y: 60 })
      .perform()
    return /ship\s+Harrow Maid[\s\S]*state\s+ramps/.test(await page.text())
  })
  await page.press('as numbers')
  await page.sees('as names')
  await page.sees(/state\s+30 = ramps\s+30 = ramps\s+30\s+every sample, steps/)
  await page.sees('Axes …')
  await page.press('as names')
  await page.sees('as numbers')
  await page.go(`/trends?tags=${tag.id}`)
  await page.sees('every sample')
})

it('tells what a cursor stands on, and keeps the set under a name', async () => {
  const canvas = await page.find('.picture canvas')
  await page.driver.actions().move({ origin: canvas, x: 560, y: 0 }).click().perform()
  await page.sees(/At 1 · \d\d:\d\d:\d\d/)
  await page.driver.actions().sendKeys(Key.ESCAPE).perform()
  await until(async () => !(await page.text()).includes('At 1 ·'))
  await page.press('Keep as …')
  await page.type('Its name', 'A ship’s call')
  await page.press('Keep')
  await page.sees('“A ship’s call” is kept.')
  await until(async () => /\/trends\?set=\d+$/.test(await page.driver.getCurrentUrl()))
})

it('keeps an axis where somebody put it, and lets it fit itself again', async () => {
  await page.press('Axes …')
  await page.type('kW, from', '500')
  await page.type('kW, to', '400')
  await page.sees('Above the low end.')
  await page.type('kW, to', '900')
  await page.sees('Axes, 1 set …')
  await page.driver.actions().sendKeys(Key.ESCAPE).perform()
  await page.press('Keep changes')
  await page.sees('is kept as it is now')
  const [set] = (await site.list('/trend-sets')) as { content: { ranges: unknown[] } }[]
  expect(set!.content.ranges).toEqual([{ axis: 'kW', low: 500, high: 900 }])
  await page.press('Axes, 1 set …')
  await page.press('Fits itself')
  await page.sees('Axes …')
})

it('makes a class and a piece of equipment, whose properties are tags', async () => {
  await page.go('/equipment')
  await page.press('Make a class')
  await page.type('Name', 'Feeder')
  await page.press('+ input')
  await page.type('Name of the property', 'power')
  await page.press('+ rollup')
  await page.type('Name of the property', 'mean')
  await page.type('Of the property', 'power')
  await page.type('Windows of', '1')
  await page.press('Make it')
  await page.sees('Class “Feeder” saved.')
  await page.go('/equipment/new')
  await page.type('Place and name', 'Feeder 1')
  await page.choose('Class', 'Feeder')
  await page.sees('the same name')
  await page.press('Bind')
  await page.sees('All inputs are bound.')
  await page.press('Make it')
  await page.sees('2 properties · 1 of 1 inputs bound · 1 rolled up')
  await page.sees('all bound')
  await page.sees(/berth\/1\/power\s+[\d.]+/)
})

it('makes many pieces at once from a table, with what becomes of each before it is done', async () => {
  await page.go('/equipment')
  await page.press('Many at once')
  await page.type('The table; paste it, or choose a file', 'path,class\nNorth/Dock/Feeder 1,Feeder\nNorth/Dock/Feeder 2,Crane')
  await page.sees(/3\s+made\s+0\s+changed\s+0\s+alike\s+1\s+refused/)
  await page.sees('There is no such class.')
  await page.press('Make and change 3 of 4')
  await page.sees('3 pieces of equipment made.')
  const paths = ((await site.list('/equipment?find=North')) as { path: string }[]).map(({ path }) => path)
  expect(paths).toEqual(['North', 'North/Dock', 'North/Dock/Feeder 1'])
})

it('takes along what was recorded of a tag before it was bound, converted, works out what comes of it, and rolls it up', async () => {
  const source = { kind: 'memory', start: 5000 }
  await site.api('/tags', { tags: [{ path: 'berth/2/power', source, type: 'float64', unit: 'W' }] })
  const begin = Math.floor(Date.now() / 3_600_000) * 3_600_000 - 2 * 3_600_000
  const lines = Array.from({ length: 3600 }, (_, i) => `berth/2/power,${new Date(begin + i * 1000).toISOString()},${1000 * (i % 60)}`)
  const table = await fetch(`${site.base}/api/history/table`, {
    method: 'POST',
    headers: { cookie: site.cookie, 'content-type': 'text/csv' },
    body: `path,time,value\n${lines.join('\n')}\n`,
  })
  expect(await table.json()).toEqual({ samples: 3600, series: 1 })
  await site.api('/recordings', { pattern: 'Quay/**', how: { kind: 'change' } })
  const properties = [
    { name: 'power', unit: 'kW', made: { kind: 'input' } },
    { name: 'peak', unit: 'kW', made: { kind: 'rollup', of: 'power', how: 'max', window: { count: 1, unit: 'minute' } } },
    { name: 'rated', unit: 'kW', made: { kind: 'constant', value: 60 } },
    { name: 'share', made: { kind: 'formula', formula: 'power / rated' } },
    { name: 'share_peak', made: { kind: 'rollup', of: 'share', how: 'max', window: { count: 1, unit: 'minute' } } },
  ]
  await site.api('/equipment-classes', { name: 'Meter', properties })
  const { body: quay } = (await site.api('/equipment', { path: 'Quay' })) as { body: { id: number } }
  await site.api('/equipment', { path: 'Quay/Meter', class: 'Meter', bindings: { power: 'berth/2/power' } })
  // all that is part of it
  await page.go(`/equipment?at=${quay.id}`)
  await page.sees(/What 1 input is bound to was recorded before; 1 property can be worked out over what was before, since [^:]+:\d\d/)
  await page.press('Take that past along')
  // and what it had when it was made
  await page.sees(/7,20[012] samples taken along\./)
  await until(async () => !(await page.text()).includes('worked out over'))
  const ids = ((await site.list('/tags?below=Quay')) as Tag[]).map(({ id, path }) => [path, id] as const)
  const at = async (path: string, time: number) => {
    const series = [new Map(ids).get(path)!]
    const { body } = (await site.api('/history/at', { series, times: [time] })) as { body: { samples: ({ number: number } | null)[] }[] }
    return body[0]!.samples[0]?.number
  }
  expect(await at('Quay/Meter/power', begin + 42_500)).toBe(42)
  expect(await at('Quay/Meter/share', begin + 42_500)).toBe(42 / 60)
  await until(async () => (await at('Quay/Meter/peak', begin + 3_600_000)) === 59)
  await until(async () => (await at('Quay/Meter/share_peak', begin + 3_600_000)) === 59 / 60)
})
