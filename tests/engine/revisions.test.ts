import fc from 'fast-check'
import { sql } from 'kysely'
import { afterEach, describe, expect, it } from 'vitest'
import { changeConfiguration } from '#db/configuration'
import { changesOfRevision, thingIn } from '#db/revisionChanges'
import { thingsOf } from '#db/rows'
import { changedSince } from '#db/since'
import { forgetRevisions } from '#db/forget'
import { returnTo, takeBack } from '#db/takeBack'
import { pointTag, type Tag } from '#shared/tags'
import { closeAll, databaseFor, linkTo, type Closing } from '../support/engineOn'

/** What is kept of each revision, and the ways back. */

const closing: Closing = []
afterEach(() => closeAll(closing))

const site = async () => {
  const { db } = await databaseFor(closing)
  const { result } = await changeConfiguration(db, 'test', 'a link', (editor) => editor.insert('link', [linkTo(5020)]))
  const linkId = result[0]!.id
  const draft = (path: string, offset: number) => pointTag({ path, linkId, address: `holding/${offset}`, type: 'uint16' })
  const tags = async () => thingsOf('tag', await db.selectFrom('tag').selectAll().orderBy('id').execute())
  /** Without the revisions, which go on. */
  const state = async () => (await tags()).map(({ revision: _, ...tag }) => tag)
  return { db, draft, tags, state }
}

describe('the ways back', () => {
  it('lead to any point in time, whatever happened after it, and from there forward again', async () => {
    const { db, draft, tags, state } = await site()
    const act = fc.record({ what: fc.constantFrom('make', 'change', 'remove', 'swap'), of: fc.nat(5), offset: fc.nat(1000) })
    let name = 0
    const one = async ({ what, of, offset }: { what: string; of: number; offset: number }) => {
      const all = await tags()
      const tag = all[of % Math.max(1, all.length)]
      const other = all[(of + 1) % Math.max(1, all.length)]
      await changeConfiguration(db, 'test', what, async (editor) => {
        if (what === 'make' || !tag) await editor.insertUnseen('tag', [draft(`made/${name++}`, offset), draft(`made/${name++}`, offset)])
        else if (what === 'remove') await editor.remove('tag', [tag])
        else if (what === 'swap' && other !== tag)
          await editor.updateUnseen('tag', [
            { ...tag, path: other!.path },
            { ...other!, path: tag.path },
          ])
        else await editor.updateUnseen('tag', [{ ...tag, ...draft(tag.path, offset) }])
      })
    }
    await fc.assert(
      fc.asyncProperty(
        fc.array(act, { minLength: 1, maxLength: 4 }),
        fc.array(act, { minLength: 1, maxLength: 6 }),
        async (first, then) => {
          for (const each of first) await one(each)
          const { revision } = await db.selectFrom('site').select('revision').executeTakeFirstOrThrow()
          const before = await state()
          for (const each of then) await one(each)
          const after = await state()
          const back = await returnTo(db, 'test', revision)
          expect(await state()).toEqual(before)
          expect(await takeBack(db, 'test', (back as { revision: number }).revision)).toHaveProperty('revision')
          expect(await state()).toEqual(after)
        },
      ),
      { numRuns: 12 },
    )
  })

  it('take several back as one, unless something of them changed again outside of them', async () => {
    const { db, draft, tags, state } = await site()
    const change = async (path: string, offset: number) => {
      const tag = (await tags()).find((one) => one.path === path)!
      return (await changeConfiguration(db, 'test', path, (editor) => editor.updateUnseen('tag', [{ ...tag, ...draft(path, offset) }])))
        .revision
    }
    await changeConfiguration(db, 'test', 'made', (editor) => editor.insert('tag', [draft('a', 1), draft('b', 2)]))
    const before = await state()
    const [first, second, third] = [await change('a', 10), await change('b', 20), await change('a', 11)]
    expect(await takeBack(db, 'test', [first, second])).toEqual({
      problem: expect.stringMatching(/^tag \d+ was changed again in revision \d+\.$/),
    })
    expect(await takeBack(db, 'test', [third, second, first])).toEqual({ revision: third + 1 })
    expect(await state()).toEqual(before)
    const { what } = await db
      .selectFrom('revision')
      .select('what')
      .where('number', '=', third + 1)
      .executeTakeFirstOrThrow()
    expect(what).toBe(`Took back revisions ${first}, ${second} and ${third}`)
    expect(await takeBack(db, 'test', [first, 999])).toEqual({ problem: 'there is no revision 999.' })
    expect(await returnTo(db, 'test', third + 1)).toEqual({ problem: 'nothing was changed that can be put back.' })
  })
})

describe('what a revision changed', () => {
  it('is told with how it was and became, also after it changed again, or is gone', async () => {
    const { db, draft, tags } = await site()
    const { revision } = await changeConfiguration(db, 'test', 'made', (editor) => editor.insert('tag', [draft('a', 1), draft('b', 2)]))
    const addresses = async (number: number) =>
      (await changesOfRevision(db, number, { names: [], offset: 0, limit: 10, isDown: false })).changes.map(
        ({ subject, what, before, after }) => {
          const address = (stored: unknown) =>
            (thingIn(subject, stored)?.thing as Tag | undefined)?.source as { address: string } | undefined
          return [what, address(before)?.address ?? null, address(after)?.address ?? null]
        },
      )
    expect(await addresses(revision)).toEqual([
      ['made', null, 'holding/1'],
      ['made', null, 'holding/2'],
    ])
    const [a, b] = await tags()
    await changeConfiguration(db, 'test', 'twice', async (editor) => {
      await editor.updateUnseen('tag', [{ ...a!, ...draft('a', 5) }])
      await editor.updateUnseen('tag', [{ ...a!, ...draft('a', 6) }])
      await editor.remove('tag', [b!])
    })
    expect(await addresses(revision)).toEqual([
      ['made', null, 'holding/1'],
      ['made', null, 'holding/2'],
    ])
    expect(await addresses(revision + 1)).toEqual([
      ['changed', 'holding/1', 'holding/6'],
      ['removed', 'holding/2', null],
    ])
    expect(await changesOfRevision(db, revision, { names: ['%B%'], offset: 0, limit: 10, isDown: false })).toMatchObject({
      total: 1,
      changes: [{ thing: b!.id }],
    })
    const since = await changedSince(db, revision, 10)
    expect(since).toMatchObject({ revision: revision + 1, things: [{ subject: 'tag', rows: [{ id: a!.id }], removed: [b!.id] }] })
    expect(await changedSince(db, revision, 1)).toBeNull()
  })
})

describe('what is too old', () => {
  it('is forgotten by age and by number, and whoever follows changes from before it reads everything', async () => {
    const { db, draft, tags } = await site()
    for (const path of ['a', 'b', 'c', 'd'])
      await changeConfiguration(db, 'test', `tag ${path}`, (editor) => editor.insert('tag', [draft(path, 1)]))
    const [a] = await tags()
    await changeConfiguration(db, 'test', 'a again', (editor) => editor.updateUnseen('tag', [{ ...a!, ...draft('a', 2) }]))
    const { revision } = await db.selectFrom('site').select('revision').executeTakeFirstOrThrow()
    expect(revision).toBe(6)
    const numbers = async () => (await db.selectFrom('revision').select('number').orderBy('number').execute()).map(({ number }) => number)

    // nothing is chosen, or nothing is old enough: all stays
    expect(await forgetRevisions(db)).toBe(0)
    await db.updateTable('site').set({ keep_days: 10 }).execute()
    expect(await forgetRevisions(db)).toBe(0)
    await sql`update revision set at = now() - interval '11 days' where number <= 2`.execute(db)
    expect(await forgetRevisions(db)).toBe(2)
    // the link is as revision 1 left it; tag a is not as revision 2 left it
    expect(await numbers()).toEqual([1, 3, 4, 5, 6])
    expect(await changedSince(db, 1, 10)).toBeNull()
    expect(await changedSince(db, 2, 10)).not.toBeNull()

    await db.updateTable('site').set({ keep_revisions: 2 }).execute()
    expect(await forgetRevisions(db)).toBe(4)
    expect(await db.selectFrom('change').select('revision').orderBy('revision').execute()).toEqual([{ revision: 5 }, { revision: 6 }])
    expect(await returnTo(db, 'test', 3)).toEqual({ problem: 'what was changed up to revision 4 is forgotten.' })
    expect(await takeBack(db, 'test', 3)).toEqual({ problem: 'nothing was changed that can be put back.' })
    expect(await returnTo(db, 'test', 4)).toEqual({ revision: 7 })
    expect((await tags()).map(({ path }) => path)).toEqual(['a', 'b', 'c'])
  })
})
