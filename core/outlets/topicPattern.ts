import { topicProblem } from '../mqtt/topic'
import { folderOf } from '../tags/path'

/** How topics are made from the paths of tags, as in `port/{part2}/{name}`. */

const mostParts = 12
const names = ['path', 'name', 'folder', ...Array.from({ length: mostParts }, (_, i) => `part${i + 1}`)]
const hole = /\{([^{}]*)\}/g

/** What is wrong with a pattern; null: nothing. */
export const topicPatternProblem = (pattern: string): string | null => {
  for (const [whole, name] of pattern.matchAll(hole))
    if (!names.includes(name!)) return `“${whole}” is none of {path}, {name}, {folder} and {part1} to {part${mostParts}}.`
  const filled = pattern.replace(hole, 'x')
  if (/[{}]/.test(filled)) return 'Each “{” has its “}”, with a name in between.'
  return topicProblem(filled)
}

/**
 * The topic of a tag.
 *
 * @example
 * topicOf('port/{part2}/{name}', 'berth/1/power') // 'port/1/power'
 */
export const topicOf = (pattern: string, path: string): string => {
  const parts = path.split('/')
  return pattern.replace(hole, (_, name: string) => {
    if (name === 'path') return path
    if (name === 'name') return parts.at(-1)!
    if (name === 'folder') return folderOf(path)
    return parts[Number(name.slice(4)) - 1] ?? ''
  })
}
