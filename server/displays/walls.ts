import type { Selectable } from 'kysely'
import { namedBy } from '#core/displays/names'
import { fault } from '#core/faults/catalogue'
import type { WallLinkTable } from '#db/tables'
import { tokenHash } from '#security/tokens'
import type { Display, ShownTag, WallLink, WallShown } from '#shared/displays'
import type { LiveValue } from '#shared/values'
import { Refusal } from '../answers/refusal'
import { modelNow } from '../equipment/model'
import { engineClient } from '../runtime/engineClient'
import { database } from '../store/database'
import { shownDisplay } from './displays'
import { findTags } from './named'

/** Wall screens: whoever has the token of a link sees one display, and nothing else. */

type Link = Selectable<WallLinkTable>

export const shownWallLink = ({
  id,
  display_id,
  name,
  equipment,
  turn_seconds,
  dark,
  made_by,
  made_at,
  expires_at,
  used_at,
}: Link): WallLink => ({
  ...{ id, name, equipment, dark },
  ...{ displayId: display_id, turnSeconds: turn_seconds, madeBy: made_by },
  ...{ madeAt: made_at.toISOString(), expiresAt: expires_at.toISOString(), usedAt: used_at?.toISOString() ?? null },
})

/** So often it is noted that a link is in use. */
const notedEveryMs = 60_000

const linkOf = async (token: string): Promise<Link> => {
  const link = await database().selectFrom('wall_link').selectAll().where('hash', '=', tokenHash(token)).executeTakeFirst()
  const now = Date.now()
  if (!link || link.expires_at.getTime() < now) throw new Refusal(fault('display.no-wall', {}))
  if (!link.used_at || now - link.used_at.getTime() > notedEveryMs)
    await database()
      .updateTable('wall_link')
      .set({ used_at: new Date(now) })
      .where('id', '=', link.id)
      .execute()
  return link
}

interface Wall {
  display: Display
  /** All for which it may be shown. */
  equipment: string[]
  tags: ReadonlyMap<string, ShownTag[]>
}

/** What changes with the configuration only is looked up once for each revision. */
const known = new Map<number, { revision: number; wall: Promise<Wall & { tags: Map<string, ShownTag[]> }> }>()
const mostKnown = 200

const wallOf = async (link: Link, revision: number) => {
  const found = known.get(link.id)
  if (found?.revision === revision) return found.wall
  const wall = lookUp(link)
  if (known.size >= mostKnown) known.clear()
  known.set(link.id, { revision, wall })
  wall.catch(() => known.delete(link.id))
  return wall
}

const lookUp = async (link: Link) => {
  const row = await database().selectFrom('display').selectAll().where('id', '=', link.display_id).executeTakeFirst()
  if (!row) throw new Refusal(fault('display.no-wall', {}))
  const display = shownDisplay(row)
  return { display, equipment: await equipmentFor(display, link.equipment), tags: new Map<string, ShownTag[]>() }
}

/** For what a display is shown. @param only one of them; empty: all */
export const equipmentFor = async (display: Pick<Display, 'class'>, only = ''): Promise<string[]> => {
  if (display.class === '') return []
  const model = await modelNow(database())
  const all = [...model.equipment.values()].filter((one) => model.isKindOf(one.class, display.class)).map(({ path }) => path)
  return only === '' ? all.sort() : all.filter((path) => path === only)
}

/** Its equipment is gone: what it names would be looked for on the whole site, which is nobody’s to see here. */
const isForNothing = (display: Display, at: string) => display.class !== '' && at === ''

const present = async (token: string) => {
  const link = await linkOf(token)
  const site = await database().selectFrom('site').select(['name', 'revision']).executeTakeFirstOrThrow()
  return { link, site, wall: await wallOf(link, site.revision) }
}

/** Which of the equipment is meant; the first where none is. */
const meant = (equipment: readonly string[], wanted: string | null) =>
  wanted !== null && equipment.includes(wanted) ? wanted : (equipment[0] ?? '')

export const wallNow = async (token: string, wanted: string | null): Promise<WallShown> => {
  const { link, site, wall } = await present(token)
  const at = meant(wall.equipment, wanted)
  const named = isForNothing(wall.display, at) ? [] : wall.display.panes.flatMap(({ shows }) => namedBy(shows))
  const tags = wall.tags.get(at) ?? (await findTags(named, at))
  wall.tags.set(at, tags)
  const ids = tags.flatMap(({ id }) => id ?? [])
  const [values, now] = await valuesNow(ids)
  return {
    ...{ display: wall.display, equipment: wall.equipment, in: at, tags, values, now },
    ...{ site: site.name, dark: link.dark, turnSeconds: link.turn_seconds, until: link.expires_at.toISOString() },
  }
}

const answerMs = 2000
const valuesNow = async (ids: number[]): Promise<[values: LiveValue[], now: number | null]> => {
  try {
    const [values, status] = await engineClient.call((engine) => Promise.all([engine.valuesOf(ids), engine.status()]), answerMs)
    return [values, status.now]
  } catch {
    return [[], null]
  }
}

/** One pane of what a link shows. */
export const wallPane = async (token: string, pane: number, wanted: string) => {
  const { wall } = await present(token)
  const equipment = meant(wall.equipment, wanted)
  return { shows: isForNothing(wall.display, equipment) ? null : (wall.display.panes[pane]?.shows ?? null), equipment }
}
