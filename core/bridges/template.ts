import { textOf } from '../messages/carried'
import { readExpression, type Worker } from './expression'
import type { Scope } from './names'
import type { RunFacts } from './run'

/** Text with parts that differ from run to run, as in `port/{part2}/{part4}`. */
export type ReadTemplate = { ok: true; fill(run: RunFacts): string; isFixed: boolean } | { ok: false; problem: string }

const hole = /\{([^{}]*)\}/g

export const readTemplate = (text: string, scope: Scope): ReadTemplate => {
  const parts: (string | Worker)[] = []
  let end = 0
  for (const match of text.matchAll(hole)) {
    const read = readExpression(match[1]!, scope)
    if (!read.ok) return { ok: false, problem: `In “${match[0]}”: ${read.problem}` }
    parts.push(text.slice(end, match.index), read.work)
    end = match.index + match[0].length
  }
  parts.push(text.slice(end))
  if (parts.some((part) => typeof part === 'string' && /[{}]/.test(part)))
    return { ok: false, problem: 'Each “{” has its “}”, with a name or a formula in between.' }
  if (parts.length === 1) return { ok: true, fill: () => text, isFixed: true }
  return { ok: true, fill: (run) => parts.map((part) => (typeof part === 'string' ? part : textOf(part(run)))).join(''), isFixed: false }
}
