import { z } from 'zod'
import { nameField } from '#core/contracts/fields'
import { subjectsInOrder, textFormOf, type Subject } from '../subjects'
import { isRecord } from '../subjects/definition'
import { shapeOfSubject } from './thingText'
import type { Shape } from './shape'

/** The form of the text that is written here; texts of older forms are brought up to it. */
export const textForm = 1

/** What a text is about where it is not the whole site. */
export const partContract = z.strictObject({
  folder: z.string().max(240).optional().describe('Only tags in this folder, at any depth.'),
  link: z.string().max(80).optional().describe('Only tags that read through the link of this name.'),
})
export type Part = z.output<typeof partContract>

export const headContract = z.object({
  conduit: z.literal(textForm, { error: `The text begins with “conduit: ${textForm}”, the form it is written in.` }),
  site: nameField('site').optional(),
  part: partContract.optional(),
})
export type Head = z.output<typeof headContract>

export const sections: readonly { subject: Subject; section: string }[] = subjectsInOrder().map((subject) => ({
  subject,
  section: textFormOf(subject).section,
}))

/** A JSON Schema (draft 2020-12) of the text, for editors and for checking it elsewhere. */
export const textSchema = (): Shape => {
  const lists = sections.map(({ subject, section }) => [section, listSchema(subject)] as const)
  return {
    $schema: 'https://json-schema.org/draft/2020-12/schema',
    $id: 'urn:keen-conduit:site-text:1',
    title: 'Configuration of a Keen Conduit site',
    type: 'object',
    properties: {
      conduit: { const: textForm, description: 'The form that the text is written in.' },
      site: { type: 'string', description: 'The name of the site.' },
      part: { ...strict(z.toJSONSchema(partContract, { io: 'input' }) as Shape), description: 'Absent: lists are of the whole site.' },
      ...Object.fromEntries(lists),
    },
    required: ['conduit'],
    additionalProperties: false,
  }
}

const listSchema = (subject: Subject): Shape => {
  const { key, needs } = textFormOf(subject)
  return {
    type: ['object', 'null'] as never,
    description: `By ${key}. A list that is there is whole: what is not in it is removed. One that is absent changes nothing.`,
    additionalProperties: withoutKey(asText(shapeOfSubject(subject), needs), key),
  }
}

const withoutKey = (shape: Shape, key: string): Shape => {
  if (shape.oneOf) return { ...shape, oneOf: shape.oneOf.map((choice) => withoutKey(choice, key)) }
  if (shape.anyOf) return { ...shape, anyOf: shape.anyOf.map((choice) => withoutKey(choice, key)) }
  const { [key]: _key, ...properties } = shape.properties ?? {}
  return { ...shape, properties, required: shape.required?.filter((name) => name !== key) ?? [] }
}

const secretSchema: Shape = {
  type: 'object',
  properties: { secret: { type: 'string', description: 'What the secret is called in the environment.' } },
  required: ['secret'],
  additionalProperties: false,
}

/** Names in place of numbers and of secrets, and nothing that is not known. */
const asText = (shape: Shape, needs: readonly string[]): Shape => {
  const inner = (value: unknown): unknown => {
    if (Array.isArray(value)) return value.map(inner)
    if (!isRecord(value)) return value
    return asText(value as Shape, needs)
  }
  if (isSecretShape(shape)) return secretSchema
  const parts = Object.fromEntries(
    Object.entries(shape).map(([name, part]) => [name, name === 'default' || name === 'properties' ? part : inner(part)]),
  )
  if (!shape.properties) return parts
  const refers = (name: string) => needs.find((subject) => name === `${subject}Id`)
  const properties = Object.entries(shape.properties).map(([name, part]) => {
    const subject = refers(name)
    return subject ? [subject, { type: 'string', description: `The name of a ${subject}.` }] : [name, inner(part)]
  })
  return strict({
    ...parts,
    properties: Object.fromEntries(properties),
    ...(shape.required ? { required: shape.required.map((name) => refers(name) ?? name) } : {}),
  })
}

const isSecretShape = ({ anyOf }: Shape) => !!anyOf?.some(({ properties }) => properties && 'plain' in properties)
const strict = (shape: Shape): Shape => ({ ...shape, additionalProperties: shape.additionalProperties ?? false })
