import { isArrayType, type DataType } from '../tags/types'
import { prop } from './property'
import type { PropertyRef } from './services'

/** Which requests fetch a set of properties: as many in one as fit both ways (15.7). */

export interface ReadItem {
  ref: PropertyRef
  type: DataType
  /** Bytes of its value when it came last; null: it never came. */
  seen: number | null
}

export interface ReadLimits {
  /** Objects in one request at most. */
  objects: number
  /** Bytes of one message that the device takes. */
  requestRoom: number
  /** Bytes of an answer, over all of its parts. */
  answerRoom: number
  /** Reads the status flags beside each present value. */
  flags: boolean
}

const heads = { request: 4, answer: 3 } as const
const perObject = 7
const perProperty = { asked: 3, answered: 5 } as const
const flagBytes = 3
const shortest = 5

/** What is not known before it has come once. */
const guessed = (type: DataType) => (isArrayType(type) ? 60 : type === 'string' ? 40 : type.endsWith('64') || type === 'datetime' ? 10 : 5)

const numberBytes = (number: number) => (number < 256 ? 2 : 3)

const costOf = ({ ref, type, seen }: ReadItem, flags: boolean) => {
  const [asked, answered] = [numberBytes(ref.property) + (ref.index === null ? 0 : 3), perProperty.answered + (ref.index === null ? 0 : 3)]
  const withFlags = flags && hasFlags(ref)
  return {
    request: asked + (withFlags ? 2 : 0),
    answer: answered + Math.max(shortest, seen ?? guessed(type)) + (withFlags ? perProperty.answered + flagBytes : 0),
  }
}

/** Present values have flags beside them. */
export const hasFlags = ({ property, index }: PropertyRef) => property === prop.presentValue && index === null

/** Those of one object stay together; what does not fit at all goes alone. */
export const planReads = <T extends ReadItem>(items: readonly T[], limits: ReadLimits): T[][] => {
  const sorted = [...items].sort(
    ({ ref: a }, { ref: b }) => a.object.type - b.object.type || a.object.instance - b.object.instance || a.property - b.property,
  )
  const requests: T[][] = []
  let [request, answer, objects] = [Infinity, Infinity, Infinity]
  let last: PropertyRef['object'] | null = null
  for (const item of sorted) {
    const { object } = item.ref
    const cost = costOf(item, limits.flags)
    const isSame = last !== null && last.type === object.type && last.instance === object.instance
    const more = isSame ? 0 : perObject
    const fits =
      request + cost.request + more <= limits.requestRoom &&
      answer + cost.answer + more <= limits.answerRoom &&
      objects + (isSame ? 0 : 1) <= limits.objects
    if (fits) {
      requests.at(-1)!.push(item)
      request += cost.request + more
      answer += cost.answer + more
      objects += isSame ? 0 : 1
    } else {
      requests.push([item])
      request = heads.request + cost.request + perObject
      answer = heads.answer + cost.answer + perObject
      objects = 1
    }
    last = object
  }
  return requests
}

/** What is asked for, flags included, in the order of the objects. */
export const refsOf = (items: readonly ReadItem[], flags: boolean): PropertyRef[] =>
  items.flatMap(({ ref }) => (flags && hasFlags(ref) ? [ref, { ...ref, property: prop.statusFlags }] : [ref]))
