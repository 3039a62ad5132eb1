import { mayDo, type Role } from '#core/access/roles'
import { fault } from '#core/faults/catalogue'
import { Refusal } from '../answers/refusalError'
import { asksElsewhere } from '#core/bridges/each'
import { bridgeProblems, type KnownPlaces } from '#core/bridges/problems'
import type { BridgeDraft } from '#core/bridges/settings'
import type { Editor, Row } from '#db/editor'
import { readable, thingOf } from '#db/rows'
import type { Bridge } from '#shared/bridges/bridge'
import { invalid } from '../answers/checked'

export const shownBridge = (row: Row<'bridge'>): Bridge => thingOf('bridge', row)

/** Of many rows, the bridges that can be read. */
export const shownBridges = (rows: readonly Row<'bridge'>[]): Bridge[] => readable(rows, shownBridge)

/** Refuses a bridge that names what is not there, or wants what it does not do. */
export const requireSound = async (db: Pick<Editor['db'], 'selectFrom'>, bridge: BridgeDraft) => {
  const links = readable(await db.selectFrom('link').selectAll().execute(), (row) => thingOf('link', row))
  const outlets = await db.selectFrom('outlet').select(['id', 'name', 'kind']).execute()
  const known: KnownPlaces = {
    link: (id) => links.find((link) => link.id === id),
    outlet: (id) => outlets.find((outlet) => outlet.id === id),
  }
  const problems = bridgeProblems(bridge, known)
  if (problems.length > 0) throw invalid(problems)
}

/** The names of the bridges that go over a link, or by an outlet. */
export const bridgesOver = async (db: Editor['db'], of: 'linkId' | 'outletId', id: number): Promise<string[]> =>
  shownBridges(await db.selectFrom('bridge').selectAll().execute())
    .filter(({ when, take, send }) => [...when, ...take, ...send].some((part) => (part as Partial<Record<typeof of, number>>)[of] === id))
    .map(({ name }) => name)

/** Whoever may only look tries no statement and makes no call that the saved bridge does not hold. */
export const requireMayAsk = async (db: Pick<Editor['db'], 'selectFrom'>, role: Role, bridge: BridgeDraft, savedAs: number | null) => {
  const asked = statementsOf(bridge)
  if (asked.length === 0 || mayDo(role, 'configure')) return
  const row = savedAs === null ? undefined : await db.selectFrom('bridge').selectAll().where('id', '=', savedAs).executeTakeFirst()
  const known = new Set(row ? statementsOf(shownBridge(row)) : [])
  if (asked.some((statement) => !known.has(statement))) throw new Refusal(fault('access.refused', { role, needed: 'configure' }))
}

/** With what they are asked by: other constants would ask for something else. */
const statementsOf = ({ take, lookUps }: BridgeDraft): string[] => (take.some(asksElsewhere) ? [JSON.stringify([take, lookUps])] : [])
