import { z } from 'zod'
import { baseLine, FileBefore, type BaseLine } from '#shared/tagCsv/base'
import type { WrittenLine } from '#shared/tagCsv/plan'
import { database } from '../store/database'

const baseLines = z.array(baseLine)

const rowOf = (link: number, folder: string) =>
  database().selectFrom('program_base').selectAll().where('link_id', '=', link).where('folder', '=', folder).executeTakeFirst()

const linesOf = (row: { lines: unknown } | undefined): BaseLine[] => {
  const read = baseLines.safeParse(row?.lines)
  return read.success ? read.data : []
}

/** What the file of a program said when it was taken last; null: it was not. */
export const programBase = async (link: number, folder: string): Promise<{ name: string; file: FileBefore } | null> => {
  const row = await rowOf(link, folder)
  return row ? { name: row.name, file: new FileBefore(linesOf(row)) } : null
}

/**
 * Remembers what a file said, with the tags that its lines became.
 *
 * @param left paths whose lines were left out: of them what was said before stays
 */
export const keepProgramBase = async (
  link: number,
  folder: string,
  name: string,
  written: readonly WrittenLine[],
  left: ReadonlySet<string>,
) => {
  const before = new Map(linesOf(await rowOf(link, folder)).map((line) => [line.path, line]))
  const paths = written.map(({ path }) => path)
  const tags = paths.length === 0 ? [] : await database().selectFrom('tag').select(['id', 'path']).where('path', 'in', paths).execute()
  const ids = new Map(tags.map((tag) => [tag.path, tag.id]))
  const lines = written.flatMap(({ path, cells }): BaseLine[] => {
    const known = before.get(path)
    if (left.has(path)) return known ? [known] : []
    return [{ path, id: ids.get(path) ?? known?.id ?? null, cells }]
  })
  const row = { link_id: link, folder, name, lines: JSON.stringify(lines) }
  await database()
    .insertInto('program_base')
    .values(row)
    .onConflict((conflict) => conflict.columns(['link_id', 'folder']).doUpdateSet({ name, lines: row.lines, taken_at: new Date() }))
    .execute()
}
