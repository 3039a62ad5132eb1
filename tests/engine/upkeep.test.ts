import { spawnSync } from 'node:child_process'
import { mkdirSync, readFileSync, unlinkSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { sql } from 'kysely'
import { afterEach, describe, expect, it } from 'vitest'
import { keepingContract, recordingContract } from '#core/history/settings'
import type { Stage } from '#core/upkeep/disks'
import { quality } from '#core/tags/quality'
import { changeConfiguration } from '#db/configuration'
import { DiskWatch, measureDisk } from '#engine/upkeep/diskWatch'
import { SiteClock } from '#engine/upkeep/siteClock'
import { Upkeep } from '#engine/upkeep/upkeep'
import { derOf, makeSelfSigned } from '#security/selfSigned'
import { SiteAuthority } from '#security/siteAuthority'
import { tagDraft } from '#shared/tags'
import { closeAll, databaseFor, engineOn, stateFolderFor, type Closing } from '../support/engineOn'
import { memoryJournal } from '../support/modbusSession'
import { until } from '../support/until'

const closing: Closing = []
afterEach(() => closeAll(closing))

const day = 86_400_000
const mb = 1024 * 1024

/** A site with one tag that is recorded. */
const recordedSite = async () => {
  const base = await databaseFor(closing)
  const { result: tag } = await changeConfiguration(base.db, 'test', 'made', async (editor) => {
    await editor.insert('recording', [recordingContract.parse({ pattern: 'held', how: { kind: 'change' } })])
    return (await editor.insert('tag', [tagDraft.parse({ path: 'held', type: 'float64', source: { kind: 'memory' } })]))[0]!
  })
  const started = await engineOn(closing, base)
  const tell = (value: number) => {
    started.engine.table.set(started.engine.tags.handleOf(tag.id)!, value, quality.Good, Date.now())
    started.engine.table.flush()
  }
  const samples = async () => {
    const { rows } = await sql<{
      number: number | null
      quality: number
    }>`select number, quality from history where path = 'held' order by at, arrived`.execute(base.db)
    return rows.map(({ number, quality: code }) => (code === 0 ? number : 'bad'))
  }
  return { base, tag, tell, samples, ...started }
}

const nothing = () => Promise.resolve(0)

describe('a disk that is as good as full', () => {
  it('has recording stop before anything else, and go on with a gap that is marked', async () => {
    const { engine, tell, samples } = await recordedSite()
    tell(1)
    await until(async () => (await samples()).includes(1))
    engine.history.diskIs('critical', nothing)
    for (const value of [2, 3]) tell(value)
    await until(() => engine.history.status().lost >= 2)
    expect(engine.history.status()).toMatchObject({
      flow: 'broken',
      sentence: expect.stringMatching(/^The disk is full: nothing is recorded/) as string,
    })
    engine.history.diskIs('low', nothing)
    tell(4)
    await until(async () => (await samples()).at(-1) === 4)
    expect((await samples()).filter((one) => one !== 'bad')).toEqual([1, 4])
    expect((await samples()).slice(-2)).toEqual(['bad', 4])
    expect(engine.history.status().flow).not.toBe('broken')
  })
})

describe('a disk that is short', () => {
  const partsWith = async () => {
    const site = await recordedSite()
    const { db } = site.base
    site.tell(1)
    await until(async () => (await site.samples()).includes(1))
    const from = Math.floor(Date.now() / day) * day
    for (const [shelf, columns] of [
      ['sample', 'series, at, arrived, quality, number'],
      ['second', null],
    ] as const)
      for (const ago of [3, 2, 1]) {
        const at = from - ago * day
        const name = `history_${shelf}_${new Date(at).toISOString().slice(0, 10).replaceAll('-', '_')}`
        await sql`create table ${sql.table(name)} partition of ${sql.table(`history_${shelf}`)} for values from (${sql.lit(new Date(at).toISOString())}) to (${sql.lit(new Date(at + day).toISOString())})`.execute(
          db,
        )
        if (columns)
          await sql`insert into history_sample (series, at, arrived, quality, number) select ${site.tag.id}, ${new Date(at)}::timestamptz + g * interval '1 s', now(), 0, g from generate_series(1, 5000) g`.execute(
            db,
          )
      }
    const parts = async () =>
      (
        await sql<{
          name: string
        }>`select relname as name from pg_class where relkind = 'r' and relname ~ '^history_(sample|second)_2' order by 1`.execute(db)
      ).rows.map(({ name }) => name.replace('history_', ''))
    return { ...site, parts }
  }

  it('has the oldest days of single samples give way until there is room, and no more', async () => {
    const { engine, journal, parts } = await partsWith()
    const before = await parts()
    let lacking = 1
    engine.history.diskIs('short', () => Promise.resolve(lacking))
    await until(async () => (await parts()).length < before.length)
    lacking = 0
    const gone = before.filter((name) => !before.slice(1).includes(name))
    expect(await parts()).toEqual(before.filter((name) => name !== gone[0]))
    expect(journal.entries.filter(({ text }) => /^Dropped single samples from .*: the disk is short\.$/.test(text))).toHaveLength(1)
  })

  it('gives nothing up where that was not wanted', async () => {
    const { engine, base, parts } = await partsWith()
    await base.db
      .updateTable('site')
      .set({ history: JSON.stringify(keepingContract.parse({ whenShort: 'stop' })) })
      .execute()
    const { revision } = await changeConfiguration(base.db, 'test', 'kept', () => Promise.resolve())
    await until(() => engine.effectOf(revision).state === 'in force' && engine.wanted.site.history.whenShort === 'stop')
    const before = await parts()
    let asked = 0
    engine.history.diskIs('short', () => Promise.resolve(++asked))
    await new Promise((resolve) => setTimeout(resolve, 1500))
    expect([asked, await parts()]).toEqual([0, before])
  })
})

describe('the watch over a disk', () => {
  const small = () => {
    const folder = stateFolderFor(closing)
    const place = join(folder, 'disk')
    mkdirSync(place)
    const mounted = spawnSync('mount', ['-t', 'tmpfs', '-o', 'size=64m', 'tmpfs', place]).status === 0
    if (mounted) closing.push(() => Promise.resolve(spawnSync('umount', [place])))
    return mounted ? place : null
  }

  it('sees a real disk fill and empty again', async ({ skip }) => {
    const place = small()
    if (!place) return skip('no disk of its own can be had on this machine')
    const turns: Stage[] = []
    const watch = new DiskWatch(place, (stage) => turns.push(stage))
    closing.push(() => Promise.resolve(watch.close()))
    await watch.look()
    const fill = (name: string, size: number) => writeFileSync(join(place, name), Buffer.alloc(size * mb))
    for (const [name, size] of [
      ['a', 50],
      ['b', 8],
      ['c', 4],
    ] as const) {
      fill(name, size)
      await watch.look()
    }
    for (const name of ['c', 'b', 'a']) {
      unlinkSync(join(place, name))
      await watch.look()
    }
    expect(turns).toEqual(['low', 'short', 'critical', 'short', 'low', 'well'])
    expect((await measureDisk(place))!.bytes).toBe(64 * mb)
    expect(JSON.parse(readFileSync(join(place, 'disk-looks.json'), 'utf8'))).toMatchObject({
      looks: [{ at: expect.any(Number) as number }],
    })
  })

  it('foretells by what it noted before, and shrugs at a file that is none and at a place that is gone', async () => {
    const folder = stateFolderFor(closing)
    const looks = Array.from({ length: 48 }, (_, i) => ({ at: Date.now() - (48 - i) * 3_600_000, freeBytes: (60 - i / 24) * 1e9 }))
    writeFileSync(join(folder, 'disk-looks.json'), JSON.stringify({ looks }))
    const measure = () => Promise.resolve({ bytes: 100e9, freeBytes: 58e9 })
    const watch = new DiskWatch(folder, () => {}, measure)
    closing.push(() => Promise.resolve(watch.close()))
    await watch.look()
    expect((watch.shortAt! - Date.now()) / day).toBeCloseTo(53, 0)
    writeFileSync(join(folder, 'disk-looks.json'), '{"looks":[{}]}')
    const other = new DiskWatch(
      folder,
      () => {},
      () => Promise.resolve(null),
    )
    closing.push(() => Promise.resolve(other.close()))
    await other.look()
    expect([other.facts, other.shortAt]).toEqual([null, null])
  })
})

describe('upkeep', () => {
  it('tells once what there is to be seen to, in its list and in the journal, and no more once it was', async () => {
    const base = await databaseFor(closing)
    const { engine, journal, security, stateFolder } = await engineOn(closing, base)
    const authority = await SiteAuthority.load(stateFolder, security.seal)
    const pair = await makeSelfSigned({
      commonName: 'Cable arm',
      organization: 'Quay',
      applicationUri: 'urn:arm',
      dns: ['arm'],
      ip: [],
      ...{ days: 365, from: new Date(Date.now() - 330 * day) },
    })
    await changeConfiguration(base.db, 'test', 'made', (editor) =>
      editor.insert('certificate', [
        {
          fingerprint: 'a'.repeat(64),
          name: 'Cable arm',
          verdict: 'trusted',
          der: derOf(pair.certificate).toString('base64'),
          despite: [],
        },
      ]),
    )
    await until(() => engine.wanted.things.certificate.size === 1)
    await sql`update revision set at = now() - interval '100 days'`.execute(base.db)
    const token = { name: 'Report', hash: 'x', role: 'look' as const, made_by: 'ida', expires_at: new Date(Date.now() + 20 * day) }
    await base.db
      .insertInto('api_token')
      .values({ ...token, made_at: new Date(Date.now() - 300 * day) })
      .execute()
    const upkeep = new Upkeep({ stateFolder, db: base.db, engine, journal, own: security.own, authority, isOwnDatabase: true })
    closing.push(() => upkeep.close())
    await upkeep.start()
    const about = (state: Awaited<ReturnType<Upkeep['state']>>) => state.concerns.map((one) => one.about).filter((one) => one !== 'Disk')
    const first = await upkeep.state()
    expect(about(first)).toEqual(['Token', 'Certificate', 'Backup'])
    expect(first.endings.map(({ kind }) => kind)).toEqual(['token', 'trusted certificate', 'own certificate'])
    expect(first.databaseBytes).toBeGreaterThan(1_000_000)
    const told = () => journal.entries.filter(({ source, text }) => source === 'Upkeep' && !text.includes('disk')).length
    expect(told()).toBe(3)

    writeFileSync(
      join(stateFolder, 'last-backup.json'),
      JSON.stringify({ at: Date.now() - day, file: '/srv/a.tar', bytes: 5, revision: 1 }),
    )
    await base.db.deleteFrom('api_token').execute()
    const second = await upkeep.state()
    expect([about(second), second.backup]).toEqual([
      ['Certificate'],
      { at: expect.any(Number) as number, file: '/srv/a.tar', bytes: 5, revision: 1, revisionsSince: 0 },
    ])
    expect([told(), upkeep.counts().soon >= 1]).toEqual([3, true])
  })

  it('says nothing of backups of a site that is new', async () => {
    const base = await databaseFor(closing)
    const { engine, journal, security, stateFolder } = await engineOn(closing, base)
    const authority = await SiteAuthority.load(stateFolder, security.seal)
    const upkeep = new Upkeep({ stateFolder, db: base.db, engine, journal, own: security.own, authority, isOwnDatabase: true })
    closing.push(() => upkeep.close())
    await upkeep.start()
    expect((await upkeep.state()).concerns.filter(({ about }) => about === 'Backup')).toEqual([])
  })
})

describe('a clock that was set while nothing ran', () => {
  const begun = (aliveAt: number) => {
    const folder = stateFolderFor(closing)
    writeFileSync(join(folder, 'clock.json'), JSON.stringify({ aliveAt }))
    const journal = memoryJournal()
    const clock = new SiteClock(folder, journal)
    closing.push(() => clock.close())
    return { clock, journal, folder }
  }

  it('is told where it is behind what it was', () => {
    const { clock, journal } = begun(Date.now() + 3_600_000)
    expect(journal.entries).toEqual([expect.objectContaining({ text: expect.stringMatching(/was set back by 1 h on/) as string })])
    expect(clock.lastSet!.by).toBeLessThan(-3_590_000)
  })

  it('is told where much time went by, and is noted from then on', async () => {
    const { clock, journal, folder } = begun(Date.now() - 40 * day)
    expect(journal.entries[0]!.text).toMatch(/^Was off since .*, or the clock is ahead: for a day nothing is given up/)
    expect(clock.lastSet).toBeNull()
    await until(
      () => Math.abs((JSON.parse(readFileSync(join(folder, 'clock.json'), 'utf8')) as { aliveAt: number }).aliveAt - Date.now()) < 60_000,
    )
    expect(begun(Date.now() - 3_600_000).journal.entries).toEqual([])
  })
})
