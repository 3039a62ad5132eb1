import { parseJson } from '../messages/json'
import { isPlainObject, jsonOf, textOf, type Carried } from '../messages/carried'

/** An answer by example: JSON in which names in braces stand where values go. */

const hole = /\{([a-zA-Z]\w*)\}/g
const whole = /^\{([a-zA-Z]\w*)\}$/

/** What is wrong with an answer; null: nothing. */
export const answerProblem = (text: string): string | null => {
  if (text.trim() === '') return null
  try {
    parseJson(text)
    return null
  } catch (error) {
    return `This is no JSON: ${(error as Error).message}. A value stands as text, as in "{kwh}"; it becomes a number where it is one.`
  }
}

/** The names that stand in an answer. */
export const namesInAnswer = (text: string): string[] => {
  if (text.trim() === '' || answerProblem(text) !== null) return []
  const found = new Set<string>()
  const walk = (part: unknown): void => {
    if (typeof part === 'string') for (const [, name] of part.matchAll(hole)) found.add(name!)
    else if (Array.isArray(part)) part.forEach(walk)
    else if (typeof part === 'object' && part !== null) Object.values(part).forEach(walk)
  }
  walk(parseJson(text))
  return [...found]
}

export class AnswerProblem extends Error {}

/** What an answer is made from. */
export interface AnswerFacts {
  values: Readonly<Record<string, Carried>>
  /** Of those that are many, each; null: there is one of it. */
  rows: readonly Readonly<Record<string, Carried>>[] | null
}

export type Answering = (facts: AnswerFacts) => string

/**
 * Makes answers as JSON. A text that is nothing but a name becomes its value with its type; a list of one element is repeated
 * for each of many rows; {rows} and {count} stand for all of them. Answering may throw an `AnswerProblem`.
 *
 * @example
 * answering('{"berth":"{berth}","calls":[{"kwh":"{kwh}"}]}')({ values: { berth: 2 }, rows: [{ kwh: 7 }] })
 * // {"berth":2,"calls":[{"kwh":7}]}
 */
export const answering = (text: string): Answering => {
  if (text.trim() === '') return ({ values, rows }) => jsonOf((rows ?? values) as Carried)
  const shape = parseJson(text)
  return ({ values, rows }) => {
    const all = rows === null ? values : { ...values, rows: rows as Carried, count: rows.length }
    return jsonOf(filled(shape, all, rows) as Carried)
  }
}

const filled = (part: unknown, values: AnswerFacts['values'], rows: AnswerFacts['rows']): unknown => {
  if (typeof part === 'string') return filledText(part, values)
  if (Array.isArray(part)) {
    if (rows !== null && part.length === 1 && isOfRows(part[0], values))
      return rows.map((row) => filled(part[0], { ...values, ...row }, null))
    return part.map((one) => filled(one, values, rows))
  }
  if (typeof part !== 'object' || part === null || !isPlainObject(part as Carried)) return part
  return Object.fromEntries(Object.entries(part).map(([name, one]) => [name, filled(one, values, rows)]))
}

/** Whether it names anything that only a row has. */
const isOfRows = (part: unknown, values: AnswerFacts['values']): boolean => {
  if (typeof part === 'string') return [...part.matchAll(hole)].some(([, name]) => !Object.hasOwn(values, name!))
  if (Array.isArray(part)) return part.some((one) => isOfRows(one, values))
  return typeof part === 'object' && part !== null && Object.values(part).some((one) => isOfRows(one, values))
}

const filledText = (text: string, values: AnswerFacts['values']): Carried => {
  const name = whole.exec(text)?.[1]
  if (name !== undefined) return valueOf(name, values)
  return text.replaceAll(hole, (_, inner: string) => {
    const value = valueOf(inner, values)
    return value === null ? '' : textOf(value)
  })
}

const valueOf = (name: string, values: AnswerFacts['values']): Carried => {
  if (Object.hasOwn(values, name)) return values[name]!
  const known = Object.keys(values).slice(0, 12).join(', ')
  throw new AnswerProblem(`nothing is called “${name}” in it; there are ${known || 'no values'}`)
}
