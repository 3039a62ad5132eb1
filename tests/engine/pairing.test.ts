import { afterEach, describe, expect, it } from 'vitest'
import { changeConfiguration } from '#db/configuration'
import { linkContract } from '#shared/links/link'
import { freePort } from '../../launcher/ports.mjs'
import { closeAll, type Closing } from '../support/engineOn'
import { copyWith, memoryTag } from '../support/pairing'
import { until } from '../support/until'

/** Two copies that pair by a code: trust on both sides, a link here and an outlet there, in one step. */

const closing: Closing = []
afterEach(() => closeAll(closing))

describe('two copies', () => {
  it('pair by a code that is made where values are to go: the far side dials', async () => {
    const [office, far] = await Promise.all([copyWith(closing), copyWith(closing, { 'berth/power': 812 })])
    const port = await freePort()
    const offer = await office.make({ values: 'to-maker', port, take: { name: 'Pilots', folder: 'pilots' } })
    const went = await far.redeem(offer.code, { give: { may: 'write' } })
    expect(went.fault).toBe(null)
    expect(went.steps.map(({ flow }) => flow)).toEqual(went.steps.map(() => 'flowing'))
    await until(() => office.value('pilots/berth/power') === 812)
    expect(
      await until(
        () => office.offer(offer.id),
        ({ state }) => state === 'done',
      ),
    ).toMatchObject({
      code: '',
      partner: { fingerprint: far.security.own.facts.fingerprint },
      made: { of: 'link', name: 'Pilots' },
    })
    expect((await office.rows()).certificates).toMatchObject([{ fingerprint: far.security.own.facts.fingerprint, verdict: 'trusted' }])
    expect((await far.rows()).certificates).toMatchObject([{ fingerprint: office.security.own.facts.fingerprint, verdict: 'trusted' }])
    // and it may be written through
    const { handle } = office.engine.tags.byPath('pilots/berth/power')!
    expect(await office.engine.writes.write(handle, 5, { who: 'ada', via: 'page', place: '' })).toMatchObject({ ok: true })
    await until(() => far.value('berth/power') === 5)
    expect(office.journal.writes).toMatchObject([{ who: 'ada', path: 'pilots/berth/power' }])
    // there it is known for whom, and by which copy
    expect(far.journal.writes).toMatchObject([
      { who: expect.stringMatching(/^ada, by Keen Conduit.*, as /) as string, via: 'client', path: 'berth/power' },
    ])
  }, 120_000)

  it('pair by a code that is made where values come from: we dial', async () => {
    const [office, far] = await Promise.all([copyWith(closing), copyWith(closing, { 'berth/power': 812, 'quay/gate': 1 })])
    const port = await freePort()
    const offer = await far.make({ values: 'from-maker', port, give: { folder: 'berth' } })
    const went = await office.redeem(offer.code, { take: { folder: 'pilots' } })
    expect(went.fault).toBe(null)
    await until(() => office.value('pilots/berth/power') === 812)
    expect(
      await until(
        () => far.offer(offer.id),
        ({ state }) => state === 'done',
      ),
    ).toMatchObject({ made: { of: 'outlet' } })
    // only what was given
    expect(office.engine.tags.byPath('pilots/quay/gate')).toBe(undefined)
    const { handle } = office.engine.tags.byPath('pilots/berth/power')!
    expect(await office.engine.writes.write(handle, 5, { who: 'ada', via: 'page', place: '' })).toMatchObject({ ok: false })
  }, 120_000)

  it('may take from each other both ways: what came from one is not told back to it', async () => {
    const [office, far] = await Promise.all([copyWith(closing, { 'crane/speed': 3 }), copyWith(closing, { 'berth/power': 812 })])
    const here = await office.make({ values: 'to-maker', port: await freePort(), take: { folder: 'far' } })
    expect((await far.redeem(here.code)).fault).toBe(null)
    const back = await office.make({ values: 'from-maker', port: await freePort() })
    expect((await far.redeem(back.code, { take: { folder: 'office' } })).fault).toBe(null)
    await until(() => office.value('far/berth/power') === 812 && far.value('office/crane/speed') === 3)
    // whoever looks again finds what is new there, and nothing of its own
    for (const [copy, path] of [
      [office, 'crane/late'],
      [far, 'berth/late'],
    ] as const)
      await changeConfiguration(copy.database.db, 'test', 'made', (editor) => editor.insert('tag', [memoryTag(path, 1)]))
    await until(() => office.value('far/berth/late') === 1 && far.value('office/crane/late') === 1, Boolean, 90)
    const paths = ({ engine }: typeof far) => [...engine.tags.all()].map(({ path }) => path).sort()
    expect(paths(office)).toEqual(['crane/late', 'crane/speed', 'far/berth/late', 'far/berth/power'])
    expect(paths(far)).toEqual(['berth/late', 'berth/power', 'office/crane/late', 'office/crane/speed'])
    // and each is told how the links of the other are
    const behind = () => office.engine.status().links[0]?.behind ?? []
    expect(await until(behind, ([link]) => link?.tags === 2)).toMatchObject([{ flow: 'flowing', goodTags: 2 }])
  }, 240_000)

  it('of which one shows another certificate come together no more, until they pair again; the tags stay who they are', async () => {
    const [office, far] = await Promise.all([copyWith(closing), copyWith(closing, { 'berth/power': 812 })])
    const port = await freePort()
    const again = async (more: { give?: object; take?: object }) => {
      const offer = await far.make({ values: 'from-maker', port, give: { ...more.give } })
      return office.redeem(offer.code, { take: { folder: 'pilots', ...more.take } })
    }
    expect((await again({})).fault).toBe(null)
    await until(() => office.value('pilots/berth/power') === 812)
    const [tag] = await office.database.db.selectFrom('tag').selectAll().execute()
    const [link] = (await office.rows()).links
    const [outlet] = (await far.rows()).outlets
    await far.security.own.renew()
    const status = () => office.engine.link(link!.id)!.status()
    expect(await until(status, ({ fault }) => fault?.code === 'pairing.swapped', 90)).toMatchObject({ flow: 'broken' })
    expect(office.value('pilots/berth/power')).toBe(undefined)
    const went = await again({ give: { again: outlet!.id }, take: { again: link!.id } })
    expect(went.fault).toBe(null)
    await until(() => office.value('pilots/berth/power') === 812)
    expect((await office.rows()).links).toHaveLength(1)
    expect((await far.rows()).outlets).toHaveLength(1)
    expect(linkContract.parse({ ...(await office.rows()).links[0], id: undefined }).settings).toMatchObject({
      paired: { fingerprint: far.security.own.facts.fingerprint },
    })
    expect(await office.database.db.selectFrom('tag').select('id').execute()).toEqual([{ id: tag!.id }])
  }, 240_000)
})
