import { afterEach, expect, it } from 'vitest'
import { quality } from '#core/tags/quality'
import { healthSubjects } from '#engine/health/subjects'
import { HealthTags } from '#engine/sources/healthTags'
import { changeConfiguration } from '#db/configuration'
import { linkContract } from '#shared/links/link'
import { outletContract } from '#shared/outlets/outlet'
import { tagDraft } from '#shared/tags'
import { freePort } from '../../launcher/ports.mjs'
import { closeAll, databaseFor, engineOn, type Closing } from '../support/engineOn'
import { plainClient } from '../support/outlet'
import { until } from '../support/until'

/** Tags that show how links and outlets are, over a real outlet, with the real database behind them. */

const closing: Closing = []
afterEach(() => closeAll(closing))

const healthTag = (fact: string, type: string, more: object = {}) =>
  tagDraft.parse({ path: `health/${fact}`, type, source: { kind: 'health', of: 'outlet', name: 'Plant server', fact, ...more } })

it('shows an outlet and a link, to the clients of that very outlet, and says what is not there', async () => {
  const base = await databaseFor(closing)
  const { engine, qualityOf, valueOf } = await engineOn(closing, base)
  const port = await freePort()
  const link = linkContract.parse({
    ...{ name: 'Dead meters', kind: 'modbus-tcp' },
    settings: { host: '127.0.0.1', port: await freePort(), patience: { retryFirst: 100, retryMost: 200 } },
  })
  const { revision, result: made } = await changeConfiguration(base.db, 'test', 'made', async (editor) => {
    const links = await editor.insert('link', [link])
    await editor.insert('outlet', [outletContract.parse({ name: 'Plant server', kind: 'opcua-server', settings: { doors: [{ port }] } })])
    await editor.insert('tag', [
      healthTag('flows', 'bool'),
      healthTag('clients', 'uint32'),
      healthTag('state', 'string', { of: 'link', name: 'Dead meters' }),
      healthTag('answer_p95', 'float64', { of: 'link', name: 'Dead meters' }),
      healthTag('busy', 'float64', { of: 'bridge', name: 'None such' }),
    ])
    return links
  })
  await until(() => engine.effectOf(revision).state !== 'not yet')
  const idOf = (path: string) => [...engine.tags.all()].find((tag) => tag.path === `health/${path}`)!.id
  await until(() => valueOf(idOf('flows')) === true)
  await until(() => valueOf(idOf('state')) === 'broken')
  expect(qualityOf(idOf('busy'))).toBe(quality.BadConfigurationError)
  expect(qualityOf(idOf('answer_p95'))).toBe(quality.BadNoData)
  const client = await plainClient(port)
  closing.unshift(() => client.close())
  await until(async () => (await client.value('health/clients')) === 1)

  // under another name it is not there, and nothing of what it was is believed any more
  await changeConfiguration(base.db, 'test', 'renamed', async (editor) => {
    const [before] = made as [never]
    await editor.update('link', before, { name: 'Spare meters' })
  })
  await until(() => qualityOf(idOf('state')) === quality.BadConfigurationError)
})

it('keeps no value of what it showed before', () => {
  const told: [number, number][] = []
  const table = {
    ...{ values: [] as unknown[], quality: [] as number[], sourceTime: [] as number[], flush: () => {} },
    set: (handle: number, value: unknown, code: number) =>
      Object.assign(table.values, { [handle]: value }) && (table.quality[handle] = code),
    degrade: (handle: number, code: number) => {
      told.push([handle, code])
      table.quality[handle] = code
    },
  }
  const tags = new HealthTags(table as never, healthSubjects({ allLinks: () => [], allOutlets: () => [], bridges: { all: () => [] } }))
  const draft = { ...healthTag('flows', 'bool'), handle: 3, id: 1 }
  table.quality[3] = quality.Good
  tags.take([draft as never], [])
  expect(told).toEqual([[3, quality.BadWaitingForInitialData]])
  tags.close()
})
