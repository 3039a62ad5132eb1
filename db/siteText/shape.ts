import { z } from 'zod'
import { isRecord, type Stored } from '../subjects/definition'

/** A JSON Schema (draft 2020-12), as far as it is looked into here. */
export interface Shape {
  type?: string
  const?: unknown
  enum?: unknown[]
  default?: unknown
  properties?: Record<string, Shape>
  required?: string[]
  additionalProperties?: boolean | Shape
  items?: Shape
  anyOf?: Shape[]
  oneOf?: Shape[]
  [more: string]: unknown
}

/** The form of what a contract takes, with everything in its place. */
export const shapeOf = (contract: z.ZodType): Shape => {
  const { $defs, ...schema } = z.toJSONSchema(contract, { io: 'input', unrepresentable: 'any' }) as Shape & {
    $defs?: Record<string, Shape>
  }
  return inPlace(schema, $defs ?? {}) as Shape
}

const inPlace = (value: unknown, defs: Record<string, Shape>): unknown => {
  if (Array.isArray(value)) return value.map((part) => inPlace(part, defs))
  if (!isRecord(value)) return value
  const name = typeof value.$ref === 'string' ? value.$ref.replace('#/$defs/', '') : null
  if (name !== null && defs[name]) return inPlace(defs[name], defs)
  const { $schema: _schema, id: _id, ...rest } = value
  return Object.fromEntries(Object.entries(value.properties ? rest : value).map(([key, part]) => [key, inPlace(part, defs)]))
}

/** A value without the fields that are as they are by default. */
export const lean = (value: unknown, shape: Shape): unknown => {
  const { items, properties } = shapeFor(value, shape)
  if (Array.isArray(value)) return items ? value.map((part) => lean(part, items)) : value
  if (!isRecord(value) || !properties) return value
  const fields = Object.entries(value).flatMap(([name, part]) => {
    const inner = properties[name]
    const leaner = inner ? lean(part, inner) : part
    return part === undefined || (inner && isDefault(part, leaner, inner)) ? [] : [[name, leaner] as const]
  })
  return Object.fromEntries(fields)
}

const isDefault = (whole: unknown, leaner: unknown, shape: Shape) =>
  'default' in shape && (isSame(whole, shape.default) || isSame(leaner, shape.default))

export const isSame = (a: unknown, b: unknown): boolean => {
  if (a === b) return true
  if (Array.isArray(a) || Array.isArray(b))
    return Array.isArray(a) && Array.isArray(b) && a.length === b.length && a.every((part, i) => isSame(part, b[i]))
  if (!isRecord(a) || !isRecord(b)) return false
  const names = Object.keys(a).filter((name) => a[name] !== undefined)
  const others = Object.keys(b).filter((name) => b[name] !== undefined)
  return names.length === others.length && names.every((name) => isSame(a[name], b[name]))
}

/** Fields that no contract knows, with those that it does know in their place. */
export const strangers = (value: unknown, shape: Shape, path: readonly (string | number)[] = []): Stranger[] => {
  const { items, properties, additionalProperties } = shapeFor(value, shape)
  if (Array.isArray(value)) return items ? value.flatMap((part, i) => strangers(part, items, [...path, i])) : []
  if (!isRecord(value) || !properties || additionalProperties) return []
  return Object.entries(value).flatMap(([name, part]) => {
    const inner = properties[name]
    return inner ? strangers(part, inner, [...path, name]) : [{ path: [...path, name], known: Object.keys(properties) }]
  })
}

export interface Stranger {
  path: (string | number)[]
  known: string[]
}

/** Of several forms, the one that a value has. */
const shapeFor = (value: unknown, shape: Shape): Shape => {
  const choices = shape.anyOf ?? shape.oneOf
  if (!choices) return shape
  const fitting = choices.filter((choice) => fits(value, choice))
  const found = fitting.find(({ required = [] }) => !isRecord(value) || required.every((name) => name in value)) ?? fitting[0]
  return found ? shapeFor(value, found) : {}
}

const fits = (value: unknown, shape: Shape): boolean => {
  if ('const' in shape) return shape.const === value
  if (shape.type === 'object' || shape.properties)
    return isRecord(value) && fixedParts(shape).every(([name, part]) => part.const === value[name])
  if (shape.type === 'array') return Array.isArray(value)
  return !isRecord(value) && !Array.isArray(value)
}

const fixedParts = ({ properties = {} }: Shape): [string, Stored][] => Object.entries(properties).filter(([, part]) => 'const' in part)
