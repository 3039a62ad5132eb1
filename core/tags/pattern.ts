import { pathProblem } from './path'

/** Some tags: one by its path, or all whose paths go by a pattern, where a star stands for what differs. */

export const isPattern = (text: string) => text.includes('*')

/** What is wrong with the path of a tag, or with a pattern of paths; null: nothing. */
export const patternProblem = (text: string): string | null => {
  if (!isPattern(text)) return pathProblem(text)
  const levels = text.split('/')
  if (levels.slice(0, -1).includes('**')) return '“**” stands for everything below, so it comes last: berth/**.'
  if (levels.some((level) => level.includes('**') && level !== '**')) return '“**” is a level by itself: berth/**.'
  return pathProblem(text.replaceAll('*', 'x'))
}

/**
 * Whether paths go by a pattern: `*` stands for what is within one level, `**` at the end for all that is below.
 *
 * @example
 * pathMatcher('berth/**')('berth/2/power') // true
 */
export const pathMatcher = (pattern: string): ((path: string) => boolean) => {
  if (!isPattern(pattern)) return (path) => path === pattern
  const levels = pattern.split('/').map((level) => (level === '**' ? '.+' : level.split('*').map(literal).join('[^/]*')))
  const expression = new RegExp(`^${levels.join('/')}$`, 'u')
  return (path) => expression.test(path)
}

const literal = (text: string) => text.replace(/[\\^$.*+?()[\]{}|/]/g, '\\$&')
