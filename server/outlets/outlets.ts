import type { Kysely } from 'kysely'
import type { Row } from '#db/editor'
import { readable, thingOf, thingsOf } from '#db/rows'
import type { Database } from '#db/tables'
import { settingsAs, type Outlet, type OutletDraft } from '#shared/outlets/outlet'
import { withoutSecrets } from '#shared/secrets'
import { outletSavingOf } from './kinds/registry'
import { invalid } from '../answers/checked'

/** An outlet as it leaves the server. */
export const shownOutlet = (row: Row<'outlet'>): Outlet => {
  const outlet = thingOf('outlet', row)
  return { ...outlet, settings: withoutSecrets(outlet.settings) }
}

/** Of many rows, the outlets that can be read. */
export const shownOutlets = (rows: readonly Row<'outlet'>[]): Outlet[] => readable(rows, shownOutlet)

/** The names of the outlets of which an endpoint asks over a link. */
export const outletsOver = async (db: Kysely<Database>, linkId: number): Promise<string[]> =>
  readable(await db.selectFrom('outlet').selectAll().execute(), (row) => thingOf('outlet', row))
    .filter((outlet) => settingsAs('http-server', outlet)?.endpoints.some(({ does }) => does.kind === 'rows' && does.linkId === linkId))
    .map(({ name }) => name)

/** Settings ready for the database, if they go together with those of the other outlets. */
export const readySettings = async (
  db: Kysely<Database>,
  { kind, settings }: OutletDraft,
  saved: { id: number; settings: unknown } | null,
): Promise<OutletDraft['settings']> => {
  const saving = outletSavingOf(kind)
  const rows = await db.selectFrom('outlet').selectAll().execute()
  const others = thingsOf('outlet', rows).filter(({ id }) => id !== saved?.id)
  const links = await db.selectFrom('link').select(['id', 'name', 'kind']).execute()
  const problems = saving.problems(settings, others, links)
  if (problems.length > 0) throw invalid(problems)
  return saving.stored(settings, saved?.settings ?? null)
}
