import { afterEach, expect, it } from 'vitest'
import { changeConfiguration } from '#db/configuration'
import { isGood } from '#core/tags/quality'
import { linkContract } from '#shared/links/link'
import { outletContract } from '#shared/outlets/outlet'
import { tagDraft } from '#shared/tags'
import { freePort } from '../../launcher/ports.mjs'
import { closeAll, databaseFor, engineOn, type Closing } from '../support/engineOn'
import { until } from '../support/until'

/** Everything that another copy has becomes tags here, and follows it. */

const closing: Closing = []
afterEach(() => closeAll(closing))

const memory = (path: string, start: number, more: object = {}) =>
  tagDraft.parse({ path, source: { kind: 'memory', start }, type: 'float64', ...more })

it('the tags of a far copy are here under a folder, follow what is made, changed and removed there, and are written from here', async () => {
  const port = await freePort()
  const far = await databaseFor(closing)
  const change = <T>(work: Parameters<typeof changeConfiguration<T>>[3]) => changeConfiguration(far.db, 'test', 'made', work)
  const { result: tags } = await change(async (editor) => {
    const settings = {
      doors: [{ on: false }],
      dialled: [{ host: '127.0.0.1', port, policies: ['None'] }],
      anonymous: [{ folder: '', may: 'write' }],
    }
    await editor.insert('outlet', [outletContract.parse({ name: 'To the office', kind: 'opcua-server', settings })])
    return editor.insert('tag', [
      memory('berth/power', 812, { unit: 'kW', range: { low: 0, high: 4000 }, description: 'Shore power drawn' }),
      memory('berth/limit', 3, { access: 'readwrite' }),
    ])
  })
  await engineOn(closing, far)
  const near = await databaseFor(closing)
  await changeConfiguration(near.db, 'test', 'made', async (editor) => {
    const settings = {
      awaits: { port },
      reading: { publishing: 50, sampling: 20 },
      patience: { connect: 1000, answer: 3000, retryFirst: 100, retryMost: 400 },
      takesOver: { folder: 'far', namespaces: ['urn:keen-conduit:tags'], gone: 'remove' },
    }
    await editor.insert('link', [linkContract.parse({ name: 'Far berth', kind: 'opcua', settings })])
  })
  const { engine, journal } = await engineOn(closing, near)
  const here = (path: string) => engine.tags.byPath(path)
  const value = (path: string) => {
    const handle = here(path)?.handle
    return handle !== undefined && isGood(engine.table.quality[handle]!) ? engine.table.values[handle] : undefined
  }
  await until(() => value('far/berth/power') === 812 && value('far/berth/limit') === 3)
  expect(here('far/berth/power')).toMatchObject({
    unit: 'kW',
    range: { low: 0, high: 4000 },
    description: 'Shore power drawn',
    access: 'read',
  })
  expect([...engine.tags.all()].map(({ path }) => path).sort()).toEqual(['far/berth/limit', 'far/berth/power'])
  expect(journal.entries.map(({ text }) => text)).toContain('Link “Far berth”: took over 2 tags')
  const { handle } = here('far/berth/limit')!
  expect(await engine.writes.write(handle, 5, { who: 'test', via: 'page', place: '' })).toMatchObject({ ok: true })
  await until(() => value('far/berth/limit') === 5)
  await change(async (editor) => {
    const [, limit] = await editor.rows(
      'tag',
      tags.map(({ id }) => id),
    )
    await editor.remove('tag', [limit!])
    await editor.insert('tag', [memory('berth/cable', 1)])
  })
  await until(() => value('far/berth/cable') === 1 && here('far/berth/limit') === undefined, Boolean, 60)
}, 120_000)
