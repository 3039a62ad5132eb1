import { createServer, Socket } from 'node:net'
import { afterEach, beforeEach, describe, expect, it } from 'vitest'
import { changeConfiguration } from '#db/configuration'
import { takeBack } from '#db/takeBack'
import { quality } from '#core/tags/quality'
import { freePort } from '../../launcher/ports.mjs'
import { closeAll, databaseFor, engineOn, linkTo, metersFor, powerTag, stateFolderFor, type Closing } from '../support/engineOn'
import { until } from '../support/until'
import { pointSource } from '#shared/sources/point'

const closing: Closing = []
let stateFolder: string
beforeEach(() => (stateFolder = stateFolderFor(closing)))
afterEach(() => closeAll(closing))

const startEngine = (url: string, db: Awaited<ReturnType<typeof databaseFor>>['db']) => engineOn(closing, { url, db }, stateFolder)
const meters = () => metersFor(closing)
const database = () => databaseFor(closing)

describe('the configuration, followed from the database', () => {
  it('is applied as differences: a new name and new tags reopen nothing', async () => {
    const { port, accepted } = await meters()
    const { url, db } = await database()
    const { engine } = await startEngine(url, db)
    const { result: link } = await changeConfiguration(db, 'test', 'made', async (editor) => {
      const [made] = await editor.insert('link', [linkTo(port)])
      await editor.insert('tag', [powerTag(made!.id, 'a')])
      return made!
    })
    await until(() => engine.status().goodTags === 1)
    const connections = accepted()

    await changeConfiguration(db, 'test', 'renamed', (editor) => editor.update('link', link, { name: 'Other name' }))
    await changeConfiguration(db, 'test', 'more', (editor) =>
      editor.insert('tag', [powerTag(link.id, 'b', 'holding/42'), powerTag(link.id, 'c', 'holding/44')]),
    )
    await until(() => engine.status().goodTags === 3)
    expect(accepted()).toBe(connections)

    await changeConfiguration(db, 'test', 'off', async (editor) => {
      const row = await editor.db.selectFrom('link').selectAll().executeTakeFirstOrThrow()
      await editor.update('link', row, { on: false })
    })
    await until(() => engine.status().links[0]?.flow === 'off' && engine.status().goodTags === 0)
  })

  it('moves a tag to another unit and another link, and lets removed ones go', async () => {
    const { port } = await meters()
    const second = await meters()
    await second.gateway.close()
    const { url, db } = await database()
    const { engine, qualityOf, valueOf } = await startEngine(url, db)
    const { result } = await changeConfiguration(db, 'test', 'made', async (editor) => {
      const links = await editor.insert('link', [linkTo(port), linkTo(second.port, { name: 'Second' })])
      const [tag] = await editor.insert('tag', [powerTag(links[0]!.id, 'a')])
      return { links, tag: tag! }
    })
    await until(() => engine.status().goodTags === 1)
    const { result: moved } = await changeConfiguration(db, 'test', 'moved', (editor) =>
      editor.update('tag', result.tag, {
        source: pointSource.parse({ kind: 'point', linkId: result.links[1]!.id, address: '12:holding/42' }),
      }),
    )
    const secondLink = () => engine.status().links.find((link) => link.id === result.links[1]!.id)!
    await until(() => secondLink().tags === 1 && secondLink().flow === 'broken')
    expect(secondLink().goodTags).toBe(0)
    expect(valueOf(result.tag.id)).toBeUndefined()
    await second.gateway.listen(second.port)
    await until(() => secondLink().units![0]?.unit === '12' && secondLink().goodTags === 1)
    expect(qualityOf(result.tag.id)).toBe(quality.Good)
    expect(engine.status().links.find((link) => link.id === result.links[0]!.id)).toMatchObject({ tags: 0, units: [] })
    await changeConfiguration(db, 'test', 'gone', (editor) => editor.remove('tag', [moved]))
    await until(() => engine.status().tags === 0)
    expect(engine.table.size).toBe(0)
  })

  it('is taken back: what was removed returns with its id, what was changed since is refused', async () => {
    const { db } = await database()
    const { result: link } = await changeConfiguration(db, 'test', 'made', async (editor) => {
      const [made] = await editor.insert('link', [linkTo(5020)])
      await editor.insert('tag', [powerTag(made!.id, 'a')])
      return made!
    })
    const { revision } = await changeConfiguration(db, 'test', 'removed', async (editor) => {
      await editor.remove('tag', (await editor.db.selectFrom('tag').selectAll().execute()) as never)
      await editor.remove('link', [link])
    })
    expect(await takeBack(db, 'test', revision)).toEqual({ revision: revision + 1 })
    expect(await db.selectFrom('link').select(['id', 'name']).execute()).toEqual([{ id: link.id, name: link.name }])
    expect(await db.selectFrom('tag').select(['path', 'link_id']).execute()).toEqual([{ path: 'a', link_id: link.id }])
    expect(await takeBack(db, 'test', 1)).toMatchObject({ problem: expect.stringContaining('changed again') })
    expect(await takeBack(db, 'test', 999)).toMatchObject({ problem: 'there is no such revision.' })
  })
})

describe('without the database', () => {
  it('a running engine goes on, and catches up when it is back', async () => {
    const { port } = await meters()
    const { url, db } = await database()
    const wire = await breakableWire(url)
    const { engine, feed, journal } = await startEngine(wire.url, db)
    const { result: link } = await changeConfiguration(db, 'test', 'made', async (editor) => {
      const [made] = await editor.insert('link', [linkTo(port)])
      await editor.insert('tag', [powerTag(made!.id, 'a')])
      return made!
    })
    await until(() => engine.status().goodTags === 1)
    await wire.break()
    await until(() => !feed.connected)
    await changeConfiguration(db, 'test', 'meanwhile', (editor) => editor.insert('tag', [powerTag(link.id, 'b', 'holding/42')]))
    const handle = engine.tags.handleOf(1)!
    const seen = engine.table.seenAt[handle]!
    await until(() => engine.table.seenAt[handle]! > seen)
    expect(engine.table.quality[handle]).toBe(quality.Good)
    await wire.mend()
    await until(() => engine.status().goodTags === 2)
    expect(journal.entries.map(({ text }) => text).join(' ')).toMatch(/database is away.*database is back/)
  })

  it('a new engine starts on the configuration that the last one kept', async () => {
    const { port } = await meters()
    const { url, db } = await database()
    await changeConfiguration(db, 'test', 'made', async (editor) => {
      const [made] = await editor.insert('link', [linkTo(port)])
      await editor.insert('tag', [powerTag(made!.id, 'a')])
    })
    const first = await startEngine(url, db)
    await until(() => first.engine.status().goodTags === 1)
    const nowhere = Object.assign(new URL(url), { port: String(await freePort()) }).toString()
    const { engine, feed } = await startEngine(nowhere, db)
    await until(() => engine.status().goodTags === 1)
    expect(feed.from).toBe('last known')
    expect(engine.status().configurationRevision).toBe(1)
  })
})

/** A TCP relay before the database that can be cut: the database itself serves other test files, too. */
const breakableWire = async (databaseUrl: string) => {
  const target = new URL(databaseUrl)
  const sockets = new Set<Socket>()
  const server = createServer((near) => {
    const far = new Socket().connect(Number(target.port), target.hostname)
    for (const socket of [near, far]) {
      sockets.add(socket)
      socket
        .on('error', () => {})
        .on('close', () => {
          sockets.delete(socket)
          near.destroy()
          far.destroy()
        })
    }
    near.pipe(far).pipe(near)
  })
  const listen = (port: number) => new Promise<void>((resolve) => server.listen(port, '127.0.0.1', resolve))
  await listen(0)
  const { port } = server.address() as { port: number }
  const cut = () => {
    for (const socket of sockets) socket.destroy()
    return new Promise<void>((resolve) => server.close(() => resolve()))
  }
  closing.push(() => (server.listening ? cut() : Promise.resolve()))
  return { url: Object.assign(new URL(databaseUrl), { port: String(port) }).toString(), break: cut, mend: () => listen(port) }
}
