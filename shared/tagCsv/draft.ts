import type { z } from 'zod'
import type { LinkLookup } from '../sources/source'
import { rulesOf, tagProblems, type SourceKind, type TagSource } from '../sources/registry'
import { plainValue, tagDraft, type Tag, type TagDraft } from '../tags'
import { columnOfField } from './columns'

/** What is wrong with a line: in which of our columns, where that can be told. */
export interface CellProblem {
  column: string | null
  message: string
}

/** A draft that columns may set in place: of a tag that is there, or of a new one. */
export const draftFrom = (tag: Tag | undefined, path: string, kind: SourceKind): TagDraft => {
  const source = () => rulesOf(kind).blank()
  if (!tag) return { path, source: source(), type: 'float64', access: 'read', ...plainValue }
  const { id: _id, revision: _revision, ...draft } = tag
  return { ...draft, source: tag.source.kind === kind ? copied(tag.source) : source() }
}

/** Columns set fields of a source and of its options in place. */
const copied = (source: TagSource): TagSource => ('options' in source ? { ...source, options: { ...source.options } } : { ...source })

/** @param contract all of it, or what is not known to be right already */
export const problemsOf = (draft: TagDraft, linkOf: LinkLookup, contract: z.ZodType = tagDraft): CellProblem[] => {
  const parsed = contract.safeParse(draft)
  const found = parsed.success
    ? tagProblems(draft, linkOf)
    : parsed.error.issues.map(({ path, message }) => ({ path: path.join('.'), message }))
  return found.map(({ path, message }) => ({ column: columnOfField(path), message }))
}
