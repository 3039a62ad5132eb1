import { isPattern, pathMatcher } from '../tags/pattern'
import type { RecordingDraft } from './settings'

type Rule = Pick<RecordingDraft, 'pattern'>

/**
 * Finds the recording that decides about a tag: the one by its own path, else the pattern that says most before its first
 * star, and of those the one with fewer stars.
 *
 * @example
 * closestOf([{ pattern: 'berth/**' }, { pattern: 'berth/2/**' }])('berth/2/power') // { pattern: 'berth/2/**' }
 */
export const closestOf = <R extends Rule>(rules: Iterable<R>): ((path: string) => R | undefined) => {
  const byPath = new Map<string, R>()
  const patterns: { rule: R; matches(path: string): boolean }[] = []
  for (const rule of rules)
    if (isPattern(rule.pattern)) patterns.push({ rule, matches: pathMatcher(rule.pattern) })
    else byPath.set(rule.pattern, rule)
  patterns.sort((a, b) => closeness(a.rule, b.rule))
  return (path) => byPath.get(path) ?? patterns.find(({ matches }) => matches(path))?.rule
}

const closeness = ({ pattern: a }: Rule, { pattern: b }: Rule) =>
  b.indexOf('*') - a.indexOf('*') || stars(a) - stars(b) || b.length - a.length || (a < b ? -1 : 1)

const stars = (pattern: string) => pattern.split('*').length
