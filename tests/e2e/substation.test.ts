import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import type { Link } from '#shared/links/link'
import type { Tag } from '#shared/tags'
import { openBrowser, type Browser } from '../support/browser'
import { startSite, type Site } from '../support/site'
import { until } from '../support/until'

/** Building services from an empty site: found, browsed, taken, a set point written and given back, and notifications that are swallowed. */

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

const tagAt = async (path: string) => ((await site.list(`/tags?find=${path}`)) as Tag[])[0]!

describe('building services', () => {
  it('are found over the chosen interface; where nobody answers, the check says how it asked', async () => {
    await page.go('/links/new?kind=bacnet-ip')
    await page.type('Our interface', '127.0.0.2')
    await page.type('Our UDP port', String(site.ventilationPort))
    await page.pressContaining('Patience')
    await page.type('Answers within', '400')
    await page.type('Numbers asked for', '9-1')
    await page.leave('Numbers asked for')
    await page.sees('Numbers of devices from and to')
    await page.type('Numbers asked for', '100-200')
    await page.sees(/Nobody answered “who is there” \(broadcast to 127\.255\.255\.255/)
    await page.type('Numbers asked for', '')
    await page.sees(/1 device answered: 4001 at 127\.0\.0\.1[\s\S]*device 4001 is called Substation ventilation/)
    await page.pressContaining('Known addresses')
    await page.press('+ device')
    await page.type('Device 1', '4009')
    await page.type('Host 1', '127.0.0.1')
    await page.type('Port 1', String(site.transformerPort))
    await page.sees(/answers device 4002, not 4009/)
    await page.type('Device 1', '4002')
    await page.sees('1 device answered under the right number')
    await page.type('Name', 'Substation')
    await page.press('Save link')
    await page.sees('is open, no tags yet')
  })

  it('are taken with the names, units and states that they tell', async () => {
    const [link] = (await site.list('/links')) as Link[]
    await page.go(`/tags/take?link=${link!.id}`)
    await page.pressRow('Substation ventilation')
    await page.press('Take everything below')
    await page.sees(/9 points/)
    await page.type('Below the folder', 'hall')
    await page.press('Make 9 tags')
    await page.sees('9 tags made.')
    const setPoint = await tagAt('hall_set_point')
    expect(setPoint).toMatchObject({ type: 'float32', unit: '°C', access: 'readwrite', range: { low: 10, high: 35 } })
    const mode = await tagAt('operating_mode')
    expect(mode.names).toEqual(['Off', 'Automatic', 'Night', 'Smoke extraction'].map((name, i) => ({ value: i + 1, name })))
    await page.go(`/tags?tag=${setPoint.id}`)
    await page.sees(/hall_set_point\s*21\.5/)
    await page.sees(/operating_mode\s*2 = Automatic/)
  })

  it('are written by the name of a value', async () => {
    await page.go(`/tags?tag=${(await tagAt('operating_mode')).id}`)
    await page.type('New value', 'night')
    await page.press('Write')
    await page.sees(/Written\. [^.]* now holds 3 Night/)
    await page.sees(/operating_mode\s*3 = Night/)
  })

  it('say who holds a set point; it is written at a priority and given back', async () => {
    const setPoint = await tagAt('hall_set_point')
    await page.go(`/tags/${setPoint.id}`)
    await page.type('Written at priority', '17')
    await page.leave('Written at priority')
    await page.sees('A priority is a whole number from 1 to 16.')
    await page.type('Written at priority', '10')
    await page.press('Save changes')
    await page.sees('saved')
    await page.go(`/tags?tag=${setPoint.id}`)
    await page.sees(/Who holds it[\s\S]*12\s*21\.5\s*in force/)
    await page.type('New value', '24')
    await page.press('Write')
    await page.sees(/Written\. [^.]* now holds 24/)
    await page.press('Look again')
    await page.sees(/10\s*24\s*this site writes here, in force/)
    await page.press('Give back ours')
    await page.sees(/10\s*—\s*this site writes here/)
    await page.sees(/hall_set_point\s*21\.5/)
    await page.type('New value', '90')
    await page.press('Write')
    await page.sees('the value is outside of what it takes')
  })

  it('that tell changes nobody hears are polled, and the link says what swallows them', async () => {
    const [link] = (await site.list('/links')) as Link[]
    const { id, revision, name, kind, on, settings } = link!
    await site.setVentilationFault('swallowed', true)
    const changed = { ...(settings as object), interval: 500, notices: { kind: 'confirmed', lifetime: 60, compare: 5 } }
    await site.api(`/links/${id}`, { revision, link: { name, kind, on, settings: changed } }, 'PUT')
    await page.go(`/links/${id}`)
    await page.sees(/took the subscription, and its notifications do not arrive here/)
    const temperature = await tagAt('hall_temperature')
    await page.go(`/tags?tag=${temperature.id}`)
    await page.sees(/polled: notifications do not arrive[\s\S]*firewall/)
    await site.setVentilationFault('swallowed', false)
    await until(async () => ((await site.api('/status')) as { links: { flow: string }[] }).links[0]!.flow === 'flowing', Boolean, 60)
  })
})
