import { readExpression, type Worker } from './expression'
import type { Scope } from './names'

/** A statement with what changes from run to run in braces: that is handed over beside the text, and never stands in it. */
export type ReadStatement = { ok: true; parts: readonly string[]; parameters: readonly Worker[] } | { ok: false; problem: string }

/** Quoted text, comments and dollar quotes (PostgreSQL, 4.1.2.4), in which neither “{” nor “;” means anything. */
const asides = /'(?:[^']|'')*'|"(?:[^"]|"")*"|`[^`]*`|--[^\n]*|\/\*[\s\S]*?\*\/|\$(\w*)\$[\s\S]*?\$\1\$/g
const hole = /\{([^{}]*)\}/g

/**
 * Reads a statement that asks for rows.
 *
 * @example select vessel, eta from call where berth = {part2} order by eta limit 1
 */
export const readStatement = (text: string, scope: Scope): ReadStatement => {
  const trimmed = text.trim().replace(/;$/, '').trimEnd()
  // as long as the text itself, so that places in both are the same
  const open = trimmed.replace(asides, (aside) => ' '.repeat(aside.length))
  if (!/^\s*(select|with|values|table|show)\b/i.test(open))
    return { ok: false, problem: 'It asks for rows: it begins with select or with.' }
  if (open.includes(';')) return { ok: false, problem: 'One statement, without “;” in between.' }
  const parts: string[] = []
  const parameters: Worker[] = []
  let end = 0
  for (const match of open.matchAll(hole)) {
    const inside = trimmed.slice(match.index + 1, match.index + match[0].length - 1)
    const read = readExpression(inside, scope)
    if (!read.ok) return { ok: false, problem: `In “{${inside}}”: ${read.problem}` }
    parts.push(trimmed.slice(end, match.index))
    parameters.push(read.work)
    end = match.index + match[0].length
  }
  parts.push(trimmed.slice(end))
  if (/[{}]/.test(open.replace(hole, ''))) return { ok: false, problem: 'Each “{” has its “}”, with a name or a formula in between.' }
  return { ok: true, parts, parameters }
}
