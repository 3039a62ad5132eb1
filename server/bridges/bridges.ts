import { mayDo, type Role } from '#core/access/roles'
import { fault } from '#core/faults/catalogue'
import { Refusal } from '../answers/refusalError'
import { asksElsewhere } from '#core/bridges/each'
import { bridgeProblems, type BridgeProblem, type KnownPlaces } from '#core/bridges/problems'
import type { BridgeDraft } from '#core/bridges/settings'
import type { Editor, Row } from '#db/editor'
import { readable, thingOf } from '#db/rows'
import type { Bridge } from '#shared/bridges/bridge'
import type { BridgeStatus } from '#shared/bridges/status'
import { invalid } from '../answers/checked'
import { engineClient } from '../runtime/engineClient'

export const shownBridge = (row: Row<'bridge'>): Bridge => thingOf('bridge', row)

/** Of many rows, the bridges that can be read. */
export const shownBridges = (rows: readonly Row<'bridge'>[]): Bridge[] => readable(rows, shownBridge)

/** Refuses a bridge that names what is not there, or wants what it does not do. */
export const requireSound = async (db: Pick<Editor['db'], 'selectFrom'>, bridge: BridgeDraft) => {
  const links = readable(await db.selectFrom('link').selectAll().execute(), (row) => thingOf('link', row))
  const outlets = await db.selectFrom('outlet').select(['id', 'name', 'kind', 'nodeId']).execute()
  const known: KnownPlaces = {
    link: (id) => links.find((link) => link.id === id),
    outlet: (id) => outlets.find((outlet) => outlet.id === id),
  }
  const problems = [...bridgeProblems(bridge, known), ...(await placeProblems(db, bridge))]
  if (problems.length > 0) throw invalid(problems)
}

/** A node knows the tags of its own links, and no others. */
const placeProblems = async (db: Pick<Editor['db'], 'selectFrom'>, { nodeId, when, take }: BridgeDraft): Promise<BridgeProblem[]> => {
  if (nodeId === null) return []
  const node = await db.selectFrom('node').select('name').where('id', '=', nodeId).executeTakeFirst()
  if (!node) return [{ path: 'nodeId', message: 'There is no such node any more.' }]
  const named = [
    ...when.flatMap((trigger, i) => ('tag' in trigger ? { path: trigger.tag, at: `when.${i}.tag` } : [])),
    ...take.flatMap((input, i) => (input.kind === 'tag' ? { path: input.path, at: `take.${i}.path` } : [])),
  ].filter(({ path }) => !/[*{]/.test(path))
  const rows = await db
    .selectFrom('tag')
    .innerJoin('link', 'link.id', 'tag.link_id')
    .select('tag.path')
    .where('link.nodeId', '=', nodeId)
    .where((eb) => eb('tag.path', '=', eb.fn.any(eb.val(named.map(({ path }) => path)))))
    .execute()
  const there = new Set(rows.map(({ path }) => path))
  return named.flatMap(({ path, at }) =>
    there.has(path) ? [] : { path: at, message: `“${node.name}” has no tag “${path}”: it knows those of its own links.` },
  )
}

/** How all bridges are; refuses where nobody can tell. */
export const bridgesNow = async (): Promise<BridgeStatus[]> => (await engineClient.call((engine) => engine.status(), 3000)).bridges

/** What waits in a bridge waits on the disk of the machine that runs it: it does not go along. */
export const requireEmpty = (before: Bridge, after: BridgeDraft, all: readonly BridgeStatus[]) => {
  if (before.nodeId === after.nodeId) return
  const status = all.find(({ id }) => id === before.id)
  // of one whose machine is away nobody knows
  if (status?.fault?.code.startsWith('node.')) throw new Refusal(status.fault)
  const waiting = status?.destinations.reduce((sum, { kept, aside }) => sum + kept + aside, 0) ?? 0
  if (waiting > 0) throw new Refusal(fault('bridge.waits', { name: before.name, waiting }))
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
