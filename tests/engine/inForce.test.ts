import { appendFileSync, existsSync, readFileSync, writeFileSync } from 'node:fs'
import { createServer } from 'node:net'
import { join } from 'node:path'
import { sql } from 'kysely'
import { afterEach, describe, expect, it } from 'vitest'
import { quality } from '#core/tags/quality'
import { changeConfiguration } from '#db/configuration'
import { migrate } from '#db/migrate'
import { takeBack } from '#db/takeBack'
import { settingsAs } from '#shared/outlets/outlet'
import { freePort } from '../../launcher/ports.mjs'
import { closeAll, databaseFor, engineOn, linkTo, metersFor, outletAt, powerTag, stateFolderFor, type Closing } from '../support/engineOn'
import { until } from '../support/until'

/** Each thing comes into force, or is named as not in force, by itself. */

const closing: Closing = []
afterEach(() => closeAll(closing))

/** Two links with a tag each, and an outlet, in force. */
const twoLinks = async () => {
  const { port } = await metersFor(closing)
  const base = await databaseFor(closing)
  const started = await engineOn(closing, base)
  const { result } = await changeConfiguration(base.db, 'test', 'made', async (editor) => {
    const [one, two] = await editor.insert('link', [linkTo(port, { name: 'One' }), linkTo(port, { name: 'Two' })])
    const tags = await editor.insert('tag', [powerTag(one!.id, 'one'), powerTag(two!.id, 'two')])
    const [outlet] = await editor.insert('outlet', [outletAt(await freePort())])
    return { one: one!, two: two!, tags, outlet: outlet! }
  })
  const { engine } = started
  await until(() => engine.status().goodTags === 2 && engine.status().outlets[0]?.flow === 'flowing')
  return { ...base, ...started, ...result, port }
}

const linkStatus = (engine: Awaited<ReturnType<typeof twoLinks>>['engine'], id: number) =>
  engine.status().links.find((link) => link.id === id)!

describe('a stored thing that cannot be read', () => {
  it('is named, keeps what was in force, and stops nobody else', async () => {
    const { db, engine, one, two, qualityOf, journal } = await twoLinks()
    const { revision } = await changeConfiguration(db, 'test', 'broken', async (editor) => {
      await editor.update('link', one, { settings: { host: 5 } as never })
      await editor.update('link', two, { name: 'Two, renamed' })
    })
    await until(() => engine.effectOf(revision).state !== 'not yet')
    expect(engine.effectOf(revision)).toMatchObject({
      state: 'in part',
      node: 'test',
      things: [
        { subject: 'link', id: one.id, name: 'One', revision, inForce: one.revision, fault: { code: 'force.unreadable', side: 'here' } },
      ],
    })
    expect(engine.link(two.id)!.name).toBe('Two, renamed')
    expect(engine.status()).toMatchObject({ goodTags: 2, outlets: [{ flow: 'flowing' }], notInForceCount: 1 })
    expect(qualityOf(1)).toBe(quality.Good)
    expect(journal.entries.some(({ text }) => text.includes('cannot read'))).toBe(true)

    const back = await takeBack(db, 'test', revision)
    expect(back).toMatchObject({ revision: revision + 1 })
    await until(() => engine.status().notInForceCount === 0 && engine.effectOf(revision + 1).state === 'in force')
    expect(engine.link(two.id)!.name).toBe('Two')
  })

  it('comes into force when it is mended and everything is tried again', async () => {
    const { db, engine, feed, one } = await twoLinks()
    // the disk is slow: the change is still being kept when everything is to be read again
    const kept = feed['kept']
    const add = kept.add.bind(kept)
    kept.add = (...what) => new Promise((resolve) => setTimeout(resolve, 300)).then(() => add(...what))
    const { revision } = await changeConfiguration(db, 'test', 'broken', (editor) => editor.update('link', one, { settings: {} as never }))
    await until(() => engine.effectOf(revision).state === 'in part')
    await db
      .updateTable('link')
      .set({ settings: one.settings as never, name: 'Mended' })
      .where('id', '=', one.id)
      .execute()
    await feed.readAgain()
    await engine.tryAgain()
    expect(engine.effectOf(revision).state).toBe('in force')
    expect(engine.link(one.id)!.name).toBe('Mended')
  })
})

describe('a thing that cannot be brought into force', () => {
  it('has a fault of its own, its tags say so, and trying again helps once the cause is gone', async () => {
    const { db, engine, one, two, qualityOf } = await twoLinks()
    const session = engine.link(one.id)!['running']!.session
    session.update = () => {
      throw new Error('no room on the line')
    }
    const { revision } = await changeConfiguration(db, 'test', 'both', async (editor) => {
      for (const link of [one, two])
        await editor.update('link', link, { settings: { ...(link.settings as object), interval: 60 } as never })
    })
    await until(() => engine.effectOf(revision).state === 'in part')
    expect(engine.status().notInForce).toMatchObject([{ name: 'One', inForce: null, fault: { what: expect.stringContaining('no room') } }])
    expect(linkStatus(engine, one.id)).toMatchObject({ flow: 'broken', goodTags: 0 })
    expect(qualityOf(1)).toBe(quality.BadConfigurationError)
    expect(linkStatus(engine, two.id).units![0]!.rounds[0]!.interval).toBe(60)

    await engine.tryAgain()
    await until(() => engine.status().goodTags === 2)
    expect(engine.effectOf(revision).state).toBe('in force')
    expect(linkStatus(engine, one.id).units![0]!.rounds[0]!.interval).toBe(60)
  })

  it('does not hide how the others are', async () => {
    const { engine, one, two, outlet } = await twoLinks()
    engine.link(one.id)!['running']!.session.status = () => {
      throw new Error('lost count')
    }
    engine.outlet(outlet.id)!['session']!.status = () => {
      throw new Error('lost count')
    }
    expect(linkStatus(engine, one.id)).toMatchObject({
      flow: 'broken',
      fault: { evidence: '', what: expect.stringContaining('lost count') },
    })
    expect(linkStatus(engine, two.id).flow).toBe('flowing')
    expect(engine.status().outlets[0]!.flow).toBe('broken')
  })

  it('is one tag of many, where one tag is at fault', async () => {
    const { db, engine, one } = await twoLinks()
    const session = engine.link(one.id)!['running']!.session
    const take = session.setPoints.bind(session)
    session.setPoints = (changed, removed) => {
      if (changed.some(({ path }) => path === 'cursed')) throw new Error('this one does not fit')
      take(changed, removed)
    }
    const { revision } = await changeConfiguration(db, 'test', 'tags', (editor) =>
      editor.insert(
        'tag',
        ['a', 'cursed', 'b'].map((path) => powerTag(one.id, path)),
      ),
    )
    await until(() => engine.status().goodTags === 4)
    expect(engine.effectOf(revision).things).toMatchObject([
      { subject: 'tag', name: 'cursed', fault: { what: expect.stringContaining('does not fit') } },
    ])
  })

  it('is a tag without its link, which follows when the link comes', async () => {
    const { db, engine, port } = await twoLinks()
    await sql`insert into link (id, name, kind, "on", settings, revision) values (50, 'Later', 'modbus-tcp', true, '{}', 0)`.execute(db)
    const { revision } = await changeConfiguration(db, 'test', 'tag', (editor) => editor.insert('tag', [powerTag(50, 'early')]))
    await until(() => engine.effectOf(revision).state === 'in part')
    expect(engine.status().notInForce[0]!.fault.code).toBe('force.no-link')
    await changeConfiguration(db, 'test', 'link', async (editor) => {
      const { name, settings } = linkTo(port, { name: 'Later' })
      await editor.update('link', (await editor.row('link', 50))!, { name, settings })
    })
    await until(() => engine.status().goodTags === 3 && engine.status().notInForceCount === 0)
  })
})

describe('what nobody foresaw', () => {
  it('is told, and the next change comes into force all the same', async () => {
    const { db, engine, one, journal } = await twoLinks()
    const { trust } = engine['options'].security
    const set = trust.set.bind(trust)
    trust.set = () => {
      throw new Error('the book is torn')
    }
    const columns = { name: 'Stranger', fingerprint: 'ab'.repeat(32), verdict: 'refused' as const, der: 'AAAA', despite: [] }
    await changeConfiguration(db, 'test', 'certificate', (editor) => editor.insert('certificate', [columns]))
    await until(() => journal.entries.some(({ text }) => text.includes('the book is torn')))
    trust.set = set
    const { revision } = await changeConfiguration(db, 'test', 'renamed', (editor) => editor.update('link', one, { name: 'One, renamed' }))
    await until(() => engine.effectOf(revision).state === 'in force')
    expect(engine.link(one.id)!.name).toBe('One, renamed')
  })
})

describe('a link that becomes one of another kind', () => {
  it('opens anew as that, with tags that wait, and comes back when that is taken back', async () => {
    const { db, engine, one, two, qualityOf, valueOf } = await twoLinks()
    const { revision } = await changeConfiguration(db, 'test', 'by hand', (editor) =>
      editor.update('link', one, {
        kind: 'opcua',
        settings: { address: 'opc.tcp://127.0.0.1:1', patience: { retryFirst: 100, retryMost: 200 } } as never,
      }),
    )
    await until(() => engine.link(one.id)!.kind === 'opcua')
    expect(qualityOf(1)).not.toBe(quality.Good)
    expect(valueOf(1)).toBeUndefined()
    expect(linkStatus(engine, two.id).flow).toBe('flowing')
    await takeBack(db, 'test', revision)
    await until(() => engine.status().goodTags === 2)
  })
})

describe('switching off a link that is still connecting', () => {
  it('holds up nobody', async () => {
    const mute = createServer((socket) => void socket.on('error', () => {}).resume())
    await new Promise<void>((resolve) => mute.listen(0, '127.0.0.1', resolve))
    closing.push(() => new Promise((resolve) => mute.close(resolve)))
    const { port: mutePort } = mute.address() as { port: number }
    const { db, engine, two } = await twoLinks()
    const { result } = await changeConfiguration(db, 'test', 'slow', (editor) =>
      editor.insert('link', [
        linkTo(1, { name: 'Mute', kind: 'opcua', settings: { address: `127.0.0.1:${mutePort}`, patience: { answer: 9000 } } }),
      ]),
    )
    const mute1 = result[0]!
    await until(() => engine.link(mute1.id) !== undefined)
    const started = Date.now()
    await changeConfiguration(db, 'test', 'off', (editor) => editor.update('link', mute1, { on: false }))
    await changeConfiguration(db, 'test', 'renamed', (editor) => editor.update('link', two, { name: 'Two, renamed' }))
    await until(() => engine.link(two.id)!.name === 'Two, renamed')
    expect(Date.now() - started).toBeLessThan(3000)
    expect(linkStatus(engine, mute1.id).flow).toBe('off')
  })
})

describe('what an earlier version stored', () => {
  it('is taken back in the form of today', async () => {
    const base = await databaseFor(closing, '003-people')
    const { db } = base
    const port = await freePort()
    await sql`insert into outlet (id, name, kind, "on", settings, revision)
      values (7, 'SCADA', 'opcua-server', true, ${JSON.stringify({ port, anonymousMayWrite: false })}, 1)`.execute(db)
    await sql`update site set revision = 1`.execute(db)
    await migrate(db)
    const before = { id: 7, name: 'SCADA', kind: 'opcua-server', on: true, settings: { port, anonymousMayWrite: false }, revision: 1 }
    const { revision } = await changeConfiguration(db, 'test', 'removed', async (editor) => {
      await editor.remove('outlet', [(await editor.row('outlet', 7))!])
      await editor.db
        .updateTable('change')
        .set({ before: JSON.stringify(before) as never })
        .execute()
    })
    expect(await takeBack(db, 'test', revision)).toEqual({ revision: revision + 1 })
    const { engine } = await engineOn(closing, base)
    await until(() => engine.status().outlets[0]?.flow === 'flowing')
    expect(engine.status().outlets[0]!.details).toMatchObject({ doors: [{ port, interface: '127.0.0.1' }] })
    expect(settingsAs('opcua-server', engine.wanted.things.outlet.get(7)!)!.anonymous).toEqual([{ folder: '', may: 'read' }])
  })

  it('is refused in words where it cannot be read, and nothing changes', async () => {
    const { db, one } = await twoLinks()
    const { revision } = await changeConfiguration(db, 'test', 'renamed', async (editor) => {
      await editor.update('link', one, { name: 'New name' })
      await sql`update change set before = before || '{"kind": "telegraph"}' where revision = ${editor.revision}`.execute(editor.db)
    })
    expect(await takeBack(db, 'test', revision)).toMatchObject({ problem: expect.stringContaining('kind') })
    expect((await db.selectFrom('link').select('name').where('id', '=', one.id).executeTakeFirstOrThrow()).name).toBe('New name')
  })
})

describe('the kept copy', () => {
  const kept = (folder: string) => join(folder, 'last-configuration.jsonl')
  const nowhere = async (url: string) => Object.assign(new URL(url), { port: String(await freePort()) }).toString()

  it('grows by what changed, and a line cut off by a crash does not count', async () => {
    const { db, url, engine, stateFolder, one } = await twoLinks()
    await until(() => existsSync(kept(stateFolder)))
    const size = readFileSync(kept(stateFolder)).length
    const { revision } = await changeConfiguration(db, 'test', 'renamed', (editor) => editor.update('link', one, { name: 'One, renamed' }))
    await until(() => readFileSync(kept(stateFolder), 'utf8').includes(`{"revision":${revision},`))
    expect(readFileSync(kept(stateFolder)).length - size).toBeLessThan(size)
    appendFileSync(kept(stateFolder), '{"set":"link","thing":{"id":1,"na')
    expect(engine.status().configurationRevision).toBe(revision)

    const again = await engineOn(closing, { url: await nowhere(url), db }, stateFolder)
    await until(() => again.engine.status().goodTags === 2)
    expect(again.feed.from).toBe('last known')
    expect(again.engine.link(one.id)!.name).toBe('One, renamed')
    expect(again.engine.wanted.site).toMatchObject({ name: 'New site', fileRoots: [] })
  })

  it('of an earlier version is read, too', async () => {
    const { port } = await metersFor(closing)
    const { db, url } = await databaseFor(closing)
    const stateFolder = stateFolderFor(closing)
    const link = { ...linkTo(port), id: 3, revision: 4 }
    const tag = { path: 'a', linkId: 3, address: 'holding/40', type: 'float32', options: {}, access: 'read', interval: null, scaling: null }
    writeFileSync(
      join(stateFolder, 'last-configuration.json'),
      JSON.stringify({
        form: 4,
        revision: 9,
        links: [{ ...link, settings: link.settings }],
        tags: [{ ...tag, unit: 'kW', description: '', id: 1, revision: 5 }],
      }),
    )
    const { engine } = await engineOn(closing, { url: await nowhere(url), db }, stateFolder)
    await until(() => engine.status().goodTags === 1)
    expect(engine.status().configurationRevision).toBe(9)
  })

  it('is what the engine runs on where the database connects and cannot be read', async () => {
    const { db, url, stateFolder } = await twoLinks()
    await until(() => existsSync(kept(stateFolder)) && readFileSync(kept(stateFolder), 'utf8').includes('"outlet"'))
    await sql`alter table link rename to mislaid`.execute(db)
    const { engine, feed, journal } = await engineOn(closing, { url, db }, stateFolder)
    await until(() => engine.status().goodTags === 2)
    expect(feed.from).toBe('last known')
    expect(journal.entries.some(({ text }) => text.startsWith('The configuration could not be read'))).toBe(true)
    await sql`alter table mislaid rename to link`.execute(db)
    await until(() => feed.from === 'database')
  })
})
