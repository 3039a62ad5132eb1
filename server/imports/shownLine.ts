import type { ImportLine } from '#shared/imports'
import type { LinkNames } from '#shared/sources/columns'
import { cellsOf } from '#shared/tagCsv/cells'
import type { Planned } from '#shared/tagCsv/plan'

/** A line of a plan as it leaves the server: numbers with a point, whatever the file has. */
export const shownLine = (planned: Planned, links: LinkNames): ImportLine => {
  const { what, line, path } = planned
  if (planned.what === 'refused') return { what, line, path, cells: planned.cells, before: {}, kept: {}, problems: planned.problems }
  const cells = cellsOf('draft' in planned ? planned.draft : planned.tag, links)
  const before = planned.what === 'changed' ? Object.fromEntries(planned.changes.map((change) => [change.column, change.before])) : {}
  const kept = 'kept' in planned ? (planned.kept ?? {}) : {}
  return { what, line, path, cells, before, kept, problems: [] }
}
