import { cycleOf } from '#core/formulas/graph'
import type { TagDraft } from '../tags'
import { readPaths } from './registry'

type Reading = Pick<TagDraft, 'path' | 'source'>

/** Tags that read themselves in the end, each with the way that leads there. @param among those that are asked about */
export const circlesIn = (tags: Iterable<Reading>, among: Iterable<string>): Map<string, string[]> => {
  const reads = new Map<string, string[]>()
  for (const { path, source } of tags) {
    const paths = readPaths(source)
    if (paths.length > 0) reads.set(path, paths)
  }
  const found = new Map<string, string[]>()
  for (const path of among) {
    const way = reads.has(path) ? cycleOf(path, reads) : null
    if (way) found.set(path, way)
  }
  return found
}

export const circleText = (way: readonly string[]) => `It would read itself in the end: ${way.join(' → ')}.`
