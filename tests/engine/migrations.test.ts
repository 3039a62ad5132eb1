import { sql } from 'kysely'
import { describe, expect, it } from 'vitest'
import { migrate } from '#db/migrate'
import { thingOf } from '#db/rows'
import { outletContract } from '#shared/outlets/outlet'
import { freshDatabase } from '../support/database'

/** A site that was set up with an earlier version, brought to this one. */

const door = {
  ...{ on: true, interface: '10.8.0.4', port: 4841, giveOut: '', policies: ['Basic256Sha256'], modes: ['SignAndEncrypt'] },
  ...{ anonymous: false, names: true },
}
const sealed = { sealed: 'c2VhbGVk' }

const addOutlet = async (db: Awaited<ReturnType<typeof freshDatabase>>['db'], name: string, settings: object) => {
  await sql`insert into outlet (name, kind, "on", settings, revision) values (${name}, 'opcua-server', true, ${JSON.stringify(settings)}, 1)`.execute(
    db,
  )
}

describe('a site of an earlier version', () => {
  it('keeps its doors, its names with their passwords, and who may write', async () => {
    const { db } = await freshDatabase('004-doors')
    const person = (name: string, mayWrite: boolean) => ({ name, password: sealed, mayWrite })
    await addOutlet(db, 'With names', { doors: [door], users: [person('scada', true), person('panel', false)], anonymousMayWrite: false })
    await addOutlet(db, 'Open', {
      doors: [{ ...door, policies: ['None'], anonymous: true, names: false }],
      users: [],
      anonymousMayWrite: true,
    })
    expect(await migrate(db)).toEqual([
      '005-rights',
      '006-writes',
      '007-write-keys',
      '008-sources',
      '009-changes',
      '010-keeping',
      '011-shaping',
      '012-bench',
      '013-natural-order',
      '014-bridges',
      '015-site-facts',
      '016-record-sets',
      '017-program-bases',
      '018-device-descriptions',
      '019-value-names',
      '020-history',
      '021-equipment',
      '022-limits',
      '023-displays',
      '024-rollups',
      '025-journal',
      '026-case',
      '027-journal-words',
      '028-nodes',
      '029-machines',
      '030-check-sheets',
      '031-placed',
      '032-outages',
    ])

    const outlets = (await db.selectFrom('outlet').selectAll().orderBy('name').execute()).map((row) => thingOf('outlet', row))
    for (const outlet of outlets) expect(outletContract.parse(outlet).settings).toEqual(outlet.settings)
    const [open, named] = outlets
    expect(open!.settings).toMatchObject({ anonymous: [{ folder: '', may: 'write' }], shows: [{ folder: '', may: 'write' }], users: [] })
    expect(named!.settings).toMatchObject({
      doors: [{ ...door, certificates: false }],
      anonymous: [{ folder: '', may: 'read' }],
      users: [
        { name: 'scada', key: { kind: 'password', password: sealed }, rules: [{ folder: '', may: 'write' }] },
        { name: 'panel', key: { kind: 'password', password: sealed }, rules: [{ folder: '', may: 'read' }] },
      ],
    })
    await db.destroy()
  })

  it('has tags without a range, which take one from then on', async () => {
    const { db } = await freshDatabase('004-doors')
    await sql`insert into link (name, kind, "on", settings, revision) values ('Berth meters', 'modbus-tcp', true, '{}', 1)`.execute(db)
    await sql`
      insert into tag (path, link_id, address, type, options, access, unit, description, revision)
      select 'power', id, 'holding/40', 'float32', '{}', 'read', 'kW', '', 1 from link`.execute(db)
    await sql`insert into journal (at, severity, source, text) values ('2026-11-25T14:06:45Z', 'note', 'Ö quay', 'Started ÅRVAK.')`.execute(
      db,
    )
    await migrate(db)
    // an event of before happened once
    expect(await db.selectFrom('journal').select(['times', 'last_at', 'words']).executeTakeFirstOrThrow()).toEqual({
      times: 1,
      last_at: new Date('2026-11-25T14:06:45Z'),
      words: 'started årvak.\nö quay',
    })
    const read = async () => thingOf('tag', await db.selectFrom('tag').selectAll().executeTakeFirstOrThrow()).range
    expect(await read()).toBeNull()
    await db
      .updateTable('tag')
      .set({ range: JSON.stringify({ low: 0, high: 4000 }) })
      .execute()
    expect(await read()).toEqual({ low: 0, high: 4000 })
    await db.destroy()
  })
})
