import { mkdirSync, rmSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { openBrowser, type Browser } from '../support/browser'
import { startController } from '../support/controller'
import { describedCalls } from '../support/describedCalls'
import { closeAll, type Closing } from '../support/engineOn'
import { startSite, type Site } from '../support/site'
import { until } from '../support/until'

/** A controller with racks, slots and blocks, from an empty site. */

let site: Site
let page: Browser
let there: Awaited<ReturnType<typeof startController>>
let call: Awaited<ReturnType<typeof describedCalls>>['call']
const closing: Closing = []

beforeAll(async () => {
  there = await startController(closing)
  there.memory.add(10, 60).writeFloatBE(59.75, 4)
  there.memory.add(30, 10, 'denied')
  site = await startSite()
  ;({ call } = await describedCalls(site))
  page = await openBrowser(site.base, site.cookie)
})
afterAll(async () => {
  await page?.close()
  await site?.stop()
  await closeAll(closing)
})

const tagAt = async (path: string) =>
  ((await call('GET', `/tags?find=${path}`)).body.items as { id: number; source: object; type: string; description: string }[])[0]

describe('a controller', () => {
  it('is linked by rack and slot, and the step that fails says which of them may be wrong', async () => {
    await page.go('/links/new?kind=iso-tcp')
    await page.type('Host', '127.0.0.1')
    await page.type('Port', String(there.port))
    await page.sees(/far TSAP\s*02\.01[\s\S]*takes no connection at rack 0, slot 1[\s\S]*Check rack and slot/)
    await page.type('Slot', '2')
    await page.sees(/far TSAP\s*02\.02[\s\S]*240 bytes of the 480 that were asked for[\s\S]*flag, byte 0 is 0/)
    await page.choose('Its place by', 'both TSAPs')
    await page.type('Far TSAP', '02')
    await page.type('Far TSAP', 'slot two')
    await page.leave('Far TSAP')
    await page.sees('A TSAP is 1 to 16 bytes in hex')
    await page.type('Far TSAP', '01.02')
    await page.sees(/taken at TSAP 01\.02/)
    await page.type('Name', 'Frequency converter')
    await page.press('Save link')
    await page.sees('Connected, no tags yet')
  })
  it('gives a tag by an address in the letters of programs, with its bytes beside it', async () => {
    await page.go('/tags/new')
    await page.type('Address', 'DB10.DBD4')
    await page.sees(/Bytes on the wire[\s\S]*42 6F 00 00[\s\S]*Read as float32[\s\S]*59\.75/)
    await page.type('Path', 'converter/frequency')
    await page.press('Save, then the next')
    await until(() => tagAt('converter/frequency'))
    expect(await tagAt('converter/frequency')).toMatchObject({ type: 'float32', source: { address: 'DB10.4' } })
    expect(await page.valueOf('Address')).toBe('DB10.8')
    await page.type('Address', 'DB30.0')
    await page.sees(/access is not allowed[\s\S]*Allow it in the program of the controller/)
    await page.type('Path', 'converter/guarded')
    await page.press('Close')
    await page.press('Save tag')
    await page.go('/tags')
    await page.sees(/frequency[\s\S]*Good[\s\S]*guarded[\s\S]*Bad/)
    await page.go('/links')
    await page.sees(/the controller refuses 1 tag/)
  })
  it('gets its tags from the text of its program, and what moved, came and went in the next one stands there before it is done', async () => {
    const links = (await call('GET', '/links')).body.items as { id: number }[]
    const open = async (declared: string) => {
      await page.go(`/links/${links[0]!.id}`)
      await page.press('Tags from its program')
      await page.type('Text', `VAR_GLOBAL ${declared} END_VAR`)
      await page.type('Block of what has no address', '10')
      await page.type('Folder of its tags', 'fc')
    }
    await open('running : BOOL; speed : REAL; (* of the fan *) phases : ARRAY[1..3] OF INT; odd : Motor;')
    await page.sees(
      /MOTOR, which the file does not declare[\s\S]*fc\/running[\s\S]*DB10\.0\.0[\s\S]*fc\/speed[\s\S]*DB10\.2[\s\S]*int16\[\] ×3/,
    )
    await page.press('Compare with the tags')
    await page.pressContaining('Apply 3 of 3')
    await until(() => tagAt('fc/phases'))
    expect(await tagAt('fc/speed')).toMatchObject({ type: 'float32', description: 'of the fan', source: { address: 'DB10.2' } })
    // what somebody changed since, and made beside it, the next file leaves alone
    const running = (await tagAt('fc/running')) as unknown as Record<string, unknown> & { id: number; revision: number }
    const { id: tagId, revision, ...draft } = running
    await call('PUT', `/tags/${tagId}`, { revision, tag: { ...draft, description: 'what I call it' } })
    const own = { path: 'fc/own', source: { kind: 'point', linkId: links[0]!.id, address: 'DB10.40' }, type: 'int16' }
    await call('POST', '/tags', { tags: [own] })
    await open('running : BOOL; ready : BOOL; brake : INT; speed : REAL; (* of the fan *)')
    await page.choose('Tags that it does not name', 'are removed')
    await page.press('Compare with the tags')
    await page.sees(/Compared with program, which was taken before\.\s*1 tag keeps what somebody changed since/)
    await page.pressContaining('Apply 4 of 4')
    await page.sees('Remove 1 tag?')
    await page.press('Apply')
    await until(async () => (await tagAt('fc/phases')) === undefined)
    expect(await tagAt('fc/speed')).toMatchObject({ source: { address: 'DB10.4' } })
    expect(await tagAt('converter/frequency')).toBeDefined()
    expect(await tagAt('fc/own')).toBeDefined()
    expect(await tagAt('fc/running')).toMatchObject({ description: 'what I call it' })
  })
  it('follows a file that is watched: by itself where that was chosen, else once somebody looked', async () => {
    const links = (await call('GET', '/links')).body.items as { id: number }[]
    const programs = join(site.folder, 'files')
    mkdirSync(programs, { recursive: true })
    const write = (name: string, declared: string) => writeFileSync(join(programs, name), `VAR_GLOBAL ${declared} END_VAR`)
    const watch = async (name: string, folder: string, then?: string) => {
      await page.type('Folder of its tags', folder)
      await page.type('File to watch', name)
      if (then) await page.choose('When it says something else', then)
      await page.press('Watch it, read as above')
    }
    write('fan.st', 'speed : REAL;')
    await page.go(`/links/${links[0]!.id}/program`)
    await page.type('Block of what has no address', '10')
    await watch('../fan.st', 'fan')
    await page.sees('A path goes down only')
    await watch('fan.st', 'fan', 'it is applied by itself')
    await until(() => tagAt('fan/speed'))
    await page.sees(/fan\.st[\s\S]*1 tag added by itself/)
    write('fan.st', 'ready : BOOL; speed : REAL;')
    await until(async () => ((await tagAt('fan/speed'))!.source as { address: string }).address === 'DB10.2')

    write('pump.st', 'level : INT;')
    await watch('pump.st', 'pump', 'it is told')
    await page.sees(/1 tag added, once somebody applies it/)
    expect(await tagAt('pump/level')).toBeUndefined()
    await page.press('Look at it')
    await page.pressContaining('Apply 1 of 1')
    await until(() => tagAt('pump/level'))
    rmSync(join(programs, 'fan.st'))
    await page.go(`/links/${links[0]!.id}/program`)
    await page.sees(/fan\.st cannot be read: there is no such file[\s\S]*pump\.st[\s\S]*It says what the tags say/)
  })
})
