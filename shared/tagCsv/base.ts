import { z } from 'zod'

/** A line of the file before, and the tag that it became. */
export const baseLine = z.object({
  path: z.string(),
  id: z.int().nullable().describe('Of the tag; null: it became none.'),
  cells: z.record(z.string(), z.string()).describe('By column, as they stood in the file.'),
})
export type BaseLine = z.output<typeof baseLine>

/** What the file before said. What it says again, and somebody changed since, that one keeps. */
export class FileBefore {
  private byPath: Map<string, BaseLine>
  private ids: Set<number>

  constructor(lines: readonly BaseLine[]) {
    this.byPath = new Map(lines.map((line) => [line.path, line]))
    this.ids = new Set(lines.flatMap(({ id }) => (id === null ? [] : [id])))
  }

  lineOf(path: string): BaseLine | undefined {
    return this.byPath.get(path)
  }

  /** Whether a tag came from it, whatever it is called by now. */
  made({ id, path }: { id: number; path: string }): boolean {
    return this.ids.has(id) || this.byPath.has(path)
  }
}
