import { fault } from '#core/faults/catalogue'
import type { Editor, Row } from '#db/editor'
import { readable, thingOf } from '#db/rows'
import type { LinkDraft } from '#shared/links/link'
import type { NodeDraft, SavedNode } from '#shared/nodes'
import { settingsAs, type OutletDraft } from '#shared/outlets/outlet'
import { invalid } from '../answers/checked'
import { Refusal } from '../answers/refusal'
import { database } from '../store/database'

export const allNodes = async (): Promise<SavedNode[]> => {
  const rows = await database().selectFrom('node').selectAll().execute()
  return readable(rows, shownNode).sort((a, b) => a.name.localeCompare(b.name))
}

export const shownNode = (row: Row<'node'>): SavedNode => thingOf('node', row)

/** A node as its table has it: one that runs links only is reached by nobody. */
export const columnsOf = ({ door, ...node }: NodeDraft) => ({ ...node, door: (node.standsBy ? door : null) as never })

/** The machine that leads is not removed: the site would go on without anybody to lead it. */
export const requireNotLeading = async (editor: Editor, { id, name }: Row<'node'>) => {
  const lead = await editor.db.selectFrom('site_lead').select(['node', 'run']).executeTakeFirst()
  if (lead?.run && lead.node === id) throw new Refusal(fault('node.leads', { name }))
}

/** What is placed on a node keeps it. */
export const requireNothingOn = async (editor: Editor, { id, name }: Row<'node'>) => {
  const things: string[] = []
  for (const subject of ['link', 'outlet', 'bridge'] as const) {
    const placed = await editor.db.selectFrom(subject).select('name').where('nodeId', '=', id).orderBy('name').execute()
    things.push(...placed.map((one) => `${subject} “${one.name}”`))
  }
  if (things.length > 0) throw new Refusal(fault('node.has-things', { name, things }))
}

/** A link is placed on a node that is there, and that can run it. */
export const requirePlace = async (editor: Editor, { nodeId, settings }: Pick<LinkDraft, 'nodeId' | 'settings'>) => {
  if (nodeId === null) return
  const node = await editor.db.selectFrom('node').select('id').where('id', '=', nodeId).executeTakeFirst()
  const why = !node
    ? 'There is no such node any more.'
    : 'paired' in settings && settings.paired
      ? 'A relay is paired with the certificate of this machine: it runs here.'
      : null
  if (why) throw invalid([{ path: 'nodeId', message: why }])
}

/** An outlet is placed on a node that is there, and that has what it needs. */
export const requireOutletPlace = async (editor: Editor, outlet: OutletDraft) => {
  const { nodeId } = outlet
  if (nodeId === null) return
  const node = await editor.db.selectFrom('node').select('id').where('id', '=', nodeId).executeTakeFirst()
  const why = !node
    ? 'There is no such node any more.'
    : outlet.kind === 'cloud-platform'
      ? 'A cloud platform is fed from the machine of the site.'
      : null
  if (why) throw invalid([{ path: 'nodeId', message: why }])
  await requireRowsThere(editor, outlet)
}

/** Endpoints ask over links of the same node. */
const requireRowsThere = async (editor: Editor, outlet: OutletDraft) => {
  const links = await editor.db.selectFrom('link').select(['id', 'name', 'nodeId']).execute()
  const endpoints = settingsAs('http-server', outlet)?.endpoints ?? []
  const problems = endpoints.flatMap(({ does }, i) => {
    const link = does.kind === 'rows' ? links.find(({ id }) => id === does.linkId) : undefined
    const isElsewhere = link !== undefined && link.nodeId !== outlet.nodeId
    return isElsewhere
      ? { path: `settings.endpoints.${i}.does.linkId`, message: `“${link.name}” runs on another machine than this outlet.` }
      : []
  })
  if (problems.length > 0) throw invalid(problems)
}
