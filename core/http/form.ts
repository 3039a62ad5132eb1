import { isPlainObject } from '../messages/carried'

/** How an answer differs from the one that was kept as the example, or that a description shows. */

const mostTold = 5
const mostLooked = 5000

const kindOf = (value: unknown): string => {
  if (value === null) return 'null'
  if (Array.isArray(value)) return 'a list'
  if (typeof value === 'bigint') return 'a number'
  return { object: 'an object', string: 'text', number: 'a number', boolean: 'true or false' }[typeof value as string] ?? 'nothing'
}

/**
 * What is missing or is of another kind than in the example, as in “$.now.price (a number)”; of lists their first elements are
 * compared. What comes besides is none.
 */
export const formDifferences = (example: unknown, answer: unknown): string[] => {
  const found: string[] = []
  let looked = 0
  const compare = (was: unknown, is: unknown, path: string): void => {
    if (found.length >= mostTold || looked++ > mostLooked || was === null || is === null) return
    if (is === undefined) return void found.push(`${path} (${kindOf(was)})`)
    if (kindOf(was) !== kindOf(is)) return void found.push(`${path} (${kindOf(was)} before, ${kindOf(is)} now)`)
    if (Array.isArray(was) && Array.isArray(is)) {
      if (was.length > 0 && is.length > 0) compare(was[0], is[0], `${path}[0]`)
    } else if (isPlainObject(was as never))
      for (const [name, part] of Object.entries(was as object))
        compare(part, (is as Record<string, unknown>)[name], /^[A-Za-z_]\w*$/.test(name) ? `${path}.${name}` : `${path}['${name}']`)
  }
  compare(example, answer, '$')
  return found
}
