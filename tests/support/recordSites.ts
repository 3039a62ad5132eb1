import { recordSetContract } from '#core/records/settings'
import { bridgeSite, otherDatabase } from './bridgeSite'
import type { Closing } from './engineOn'
import { until } from './until'

/** The profiles of three ships, one of them without a limit. */
export const profiles = `
  create table profile (
    voyage text primary key, ship text not null, volts integer not null, limit_kw numeric(12,4), changed_at timestamptz not null default now()
  );
  insert into profile values
    ('HS-2217', 'Sound Runner', 11000, 1500.5, '2026-11-20T03:10:00Z'),
    ('HS-2218', 'Harrow Maid', 690, 950, '2026-11-21T04:10:00Z'),
    ('HS-2219', 'Isle Ferry', 440, null, '2026-11-22T05:10:00Z')`

/** A site with an engine and a link to a database of another owner, for record sets. */
export const recordSite = async (closing: Closing, book?: Awaited<ReturnType<typeof otherDatabase>>) => {
  const database = book ?? (await otherDatabase(closing))
  const site = await bridgeSite(closing)
  const linkId = await site.link({ name: 'Call book', kind: 'sql', settings: database.settings })
  await until(() => site.engine.link(linkId)!.status().flow === 'flowing')
  const set = async (draft: Record<string, unknown>) => {
    const whole = recordSetContract.parse({ name: 'Profile', linkId, folder: 'book', ...draft })
    const [made] = (await site.change((editor) => editor.insert('recordSet', [whole]))) as { id: number }[]
    return made!.id
  }
  const alter = (id: number, fields: object) =>
    site.change(async (editor) => {
      const row = (await editor.row('recordSet', id))!
      return editor.update('recordSet', row, recordSetContract.parse({ ...row, ...fields }) as never)
    })
  const statusOf = (id: number) => site.engine.records.status().find((one) => one.id === id)!
  /** The set is read and all of its tags are made. */
  const settled = async (id: number, tags: number) => {
    await until(() => statusOf(id).tags === tags && statusOf(id).flow === 'flowing')
    return statusOf(id)
  }
  const pathsIn = (folder: string) =>
    [...site.engine.tags.all()]
      .map(({ path }) => path)
      .filter((path) => path.startsWith(`${folder}/`))
      .map((path) => path.slice(folder.length + 1))
  return { ...site, ...{ linkId, set, alter, statusOf, settled, pathsIn }, query: database.query }
}
