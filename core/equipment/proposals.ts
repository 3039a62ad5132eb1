import { nameOf } from '../tags/path'
import { isNumeric, type DataType } from '../tags/types'
import type { Property } from './settings'

interface Candidate {
  path: string
  type: DataType
  unit: string
}

/** Names are taken apart where people take them apart. */
const wordsIn = (name: string) =>
  name
    .replace(/([a-z])([A-Z])/g, '$1 $2')
    .toLowerCase()
    .split(/[^a-z0-9]+/)
    .filter((word) => word !== '')

/** Of two names, how many of their words they share: 0 to 1. */
const likeness = (a: string, b: string): number => {
  const [of, other] = [new Set(wordsIn(a)), new Set(wordsIn(b))]
  const shared = [...of].filter((word) => other.has(word)).length
  return shared / Math.max(1, new Set([...of, ...other]).size)
}

const least = 0.34

/**
 * For each input the tag that most likely is it: by its name, then by its unit; of a type that does not fit, none is. What two
 * tags fit equally well, nobody proposes.
 */
export const proposals = (properties: readonly Property[], tags: readonly Candidate[]): { property: string; path: string; why: string }[] =>
  properties.flatMap((property) => {
    if (property.made.kind !== 'input') return []
    const scored = tags
      .filter((tag) => fits(property, tag))
      .map((tag) => ({ tag, name: Math.max(likeness(property.name, nameOf(tag.path)), likeness(property.title, nameOf(tag.path))) }))
      .map((one) => ({ ...one, score: one.name + (property.unit !== '' && one.tag.unit === property.unit ? 0.25 : 0) }))
      .filter(({ name }) => name >= least)
      .sort((a, b) => b.score - a.score)
    const [best, next] = scored
    if (!best || (next && next.score === best.score)) return []
    const sameUnit = property.unit !== '' && best.tag.unit === property.unit
    const why = `${best.name === 1 ? 'the same name' : 'a similar name'}${sameUnit ? `, in ${property.unit}` : ''}`
    return [{ property: property.name, path: best.tag.path, why }]
  })

const fits = ({ type, unit }: Property, tag: Candidate): boolean => {
  const sameSort = isNumeric(type) ? isNumeric(tag.type) : type === tag.type
  return sameSort && (unit === '' || tag.unit === '' || tag.unit === unit)
}
