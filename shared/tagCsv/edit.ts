import type { LinkNames } from '../sources/columns'
import { settled } from '../sources/registry'
import type { Tag, TagDraft } from '../tags'
import { columnNamed, tagColumns } from './columns'
import { draftFrom, problemsOf, type CellProblem } from './draft'

/** Cells of one tag by their columns, as somebody typed them. */
export type Cells = Readonly<Record<string, string>>

/**
 * A tag with some of its cells written anew, and what is wrong with it then. Cells are read in the order of the columns: what
 * one means may hang on another.
 */
export const editedTag = (tag: Tag, cells: Cells, links: LinkNames): { draft: TagDraft; problems: CellProblem[] } => {
  const draft = draftFrom(tag, tag.path, tag.source.kind)
  const problems: CellProblem[] = []
  const reading = { decimal: '.' as const, context: links }
  for (const { name, put } of tagColumns) {
    if (!Object.hasOwn(cells, name)) continue
    const message = put(draft, cells[name]!.trim(), reading)
    if (message) problems.push({ column: name, message })
  }
  for (const name of Object.keys(cells)) if (!columnNamed(name)) problems.push({ column: name, message: `There is no column “${name}”.` })
  if (problems.length === 0) problems.push(...problemsOf(draft, links.linkOf))
  return problems.length > 0 ? { draft, problems } : { draft: settled(draft, links.linkOf), problems }
}

/** Columns that say what a tag is, which a cell alone does not change. */
export const fixedColumns: ReadonlySet<string> = new Set(['source'])
