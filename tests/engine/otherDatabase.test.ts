import { sql } from 'kysely'
import { afterEach, expect, it } from 'vitest'
import { changeConfiguration, configurationChannel } from '#db/configuration'
import { forgetRevisions } from '#db/forget'
import { takeBack } from '#db/takeBack'
import { tagDraft } from '#shared/tags'
import { closeAll, databaseFor, engineOn, linkTo, metersFor, powerTag, stateFolderFor, type Closing } from '../support/engineOn'
import { until } from '../support/until'

/** The database comes back as it was earlier, or is another one. */

const closing: Closing = []
afterEach(() => closeAll(closing))

type Base = Awaited<ReturnType<typeof databaseFor>>

const memory = (path: string) => tagDraft.parse({ path, type: 'int32', source: { kind: 'memory', start: '1' } })

/** As a backup of that revision would have it. */
const restoreTo = async ({ db }: Base, revision: number) => {
  await db.transaction().execute(async (db) => {
    for (const table of ['tag', 'link']) await sql`delete from ${sql.table(table)} where revision > ${revision}`.execute(db)
    await sql`delete from change where revision > ${revision}`.execute(db)
    await sql`delete from revision where number > ${revision}`.execute(db)
    await sql`update site set revision = ${revision}, name = 'As it was'`.execute(db)
    await sql`select setval('tag_id_seq', (select max(id) from tag)), setval('link_id_seq', (select max(id) from link))`.execute(db)
    await sql`select pg_notify(${configurationChannel}, '')`.execute(db)
  })
}

/** One revision with a meter and its tag, one with another tag, one with a third. */
const threeRevisions = async () => {
  const meters = await metersFor(closing)
  const base = await databaseFor(closing)
  const folder = stateFolderFor(closing)
  const first: Closing = []
  const started = await engineOn(first, base, folder)
  closing.push(() => closeAll(first))
  const { result: link } = await changeConfiguration(base.db, 'test', 'one', async (editor) => {
    const [link] = await editor.insert('link', [linkTo(meters.port)])
    await editor.insert('tag', [powerTag(link!.id, 'one')])
    return link!.id
  })
  for (const path of ['two', 'three'])
    await changeConfiguration(base.db, 'test', path, (editor) =>
      editor.insert('tag', [powerTag(link, path, path === 'two' ? 'holding/42' : 'holding/44'), memory(`m/${path}`)]),
    )
  await until(() => started.engine.effectOf(3).state === 'in force' && started.engine.status().goodTags === 5)
  return { meters, base, folder, link, ...started, end: () => closeAll(first) }
}

const pathsIn = async ({ db }: Base) => (await db.selectFrom('tag').select('path').orderBy('path').execute()).map(({ path }) => path)
const all = ['m/three', 'm/two', 'one', 'three', 'two']

it('does not apply an older state unasked; brought back, everything goes on as it was, and as one revision', async () => {
  const { base, engine, feed, journal, meters, link } = await threeRevisions()
  const connections = meters.accepted()
  await restoreTo(base, 1)
  await until(() => feed.held)
  expect(feed.held).toMatchObject({ revision: 1, site: 'As it was', inForce: { revision: 3 }, fault: { code: 'site.other-database' } })
  await until(() => feed.held!.apart.length)
  expect(feed.held!.apart).toEqual([{ subject: 'tag', only: 0, other: 0, missing: 4 }])
  expect(feed.held!.fault.what).toMatch(/older state: revision 1 of .*In force is revision 3 of/)
  expect(journal.entries.filter(({ fault }) => fault?.code === 'site.other-database')).toHaveLength(1)
  // somebody changes something there
  await changeConfiguration(base.db, 'test', 'meanwhile', (editor) => editor.insert('tag', [powerTag(link, 'meanwhile', 'holding/48')]))
  await until(() => feed.held?.revision === 2)
  expect([engine.status().goodTags, engine.wanted.revision, engine.tags.byPath('meanwhile')]).toEqual([5, 3, undefined])

  const settled = await feed.settle('in force', 'Ida')
  expect(settled!.revision).toBe(4)
  await until(() => engine.effectOf(4).state === 'in force')
  expect([await pathsIn(base), feed.held, engine.status().goodTags, meters.accepted()]).toEqual([all, null, 5, connections])
  expect(await base.db.selectFrom('revision').select(['who', 'what']).where('number', '=', 4).executeTakeFirst()).toEqual({
    ...{ who: 'Ida', what: 'Brought back what was in force, revision 3' },
  })
  // new things get numbers of their own, and what was there meanwhile can be had back
  await changeConfiguration(base.db, 'test', 'more', (editor) => editor.insert('tag', [powerTag(link, 'four', 'holding/50')]))
  await until(() => engine.status().goodTags === 6)
  await changeConfiguration(base.db, 'test', 'less', async (editor) => {
    const row = await editor.db.selectFrom('tag').selectAll().where('path', '=', 'four').executeTakeFirstOrThrow()
    await editor.remove('tag', [row])
  })
  expect(await takeBack(base.db, 'test', 4)).toEqual({ revision: 7 })
  await until(() => engine.effectOf(7).state === 'in force')
  expect(await pathsIn(base)).toEqual(['meanwhile', 'one'])
})

it('starts on what it kept, and takes the older state where somebody says so', async () => {
  const { base, folder, end } = await threeRevisions()
  await end()
  await restoreTo(base, 1)
  const { engine, feed, journal } = await engineOn(closing, base, folder)
  expect([feed.held?.revision, engine.wanted.revision]).toEqual([1, 3])
  await until(() => engine.status().goodTags === 5)
  expect(feed.held?.apart).toEqual([{ subject: 'tag', only: 0, other: 0, missing: 4 }])
  expect(journal.entries.some(({ text }) => text.includes('without the database'))).toBe(false)
  const { revision } = (await feed.settle('database', 'Ida'))!
  await until(() => engine.effectOf(revision).state === 'in force')
  await until(() => engine.status().tags === 1)
  expect([await pathsIn(base), engine.wanted.site.name, feed.held]).toEqual([['one'], 'As it was', null])
  expect(await feed.settle('database', 'Ida')).toBeNull()
})

it('is not misled where the older state went on to the same number', async () => {
  const { base, feed, engine, link } = await threeRevisions()
  const before = await base.db.selectFrom('tag').selectAll().where('path', '=', 'one').executeTakeFirstOrThrow()
  await restoreTo(base, 1)
  await until(() => feed.held)
  for (const path of ['x', 'y', 'z'])
    await changeConfiguration(base.db, 'test', path, (editor) => editor.insert('tag', [powerTag(link, path, 'holding/44')]))
  await until(() => feed.held?.revision === 4)
  expect(feed.held!.fault.what).toMatch(/another one .* has no revision 3/)
  // the numbers of things stand for others there
  expect(engine.tags.byPath('x')).toBeUndefined()
  const { revision } = (await feed.settle('database', 'Ida'))!
  await until(() => engine.effectOf(revision).state === 'in force')
  await until(() => engine.status().goodTags === 4)
  expect([...engine.tags.all()].map(({ path }) => path).sort()).toEqual(['one', 'x', 'y', 'z'])
  expect(engine.tags.byPath('one')!.id).toBe(before.id)
})

it('goes on with a database that went on, also where what was in force is forgotten there', async () => {
  const { base, folder, end, link } = await threeRevisions()
  await end()
  for (const path of ['x', 'y'])
    await changeConfiguration(base.db, 'test', path, (editor) => editor.insert('tag', [powerTag(link, path, 'holding/44')]))
  await sql`update site set keep_revisions = 1`.execute(base.db)
  await sql`update tag set revision = 5`.execute(base.db)
  await forgetRevisions(base.db)
  expect(await base.db.selectFrom('revision').select('number').where('number', '=', 3).execute()).toEqual([])
  const { engine, feed } = await engineOn(closing, base, folder)
  expect([feed.held, feed.from]).toEqual([null, 'database'])
  await until(() => engine.status().goodTags === 7)
})
