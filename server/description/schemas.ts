import { z } from 'zod'

/** A JSON Schema (draft 2020-12), as far as it is looked into here. */
export type JsonSchema = Record<string, unknown>

/**
 * The schemas of an API description: what has a name stands once among the components, everything else in its
 * place. Answers come first and keep their names; what is sent under the same name, with less that is required,
 * gets one of its own.
 */
export class Schemas {
  readonly components: Record<string, JsonSchema> = {}

  private readonly answeredNames = new Set<string>()

  answered(contract: z.ZodType): JsonSchema {
    const found = schemaOf(contract, 'output')
    for (const id of Object.keys(found.$defs ?? {})) this.answeredNames.add(id)
    return this.taken(found, (id) => id)
  }

  sent(contract: z.ZodType): JsonSchema {
    return this.taken(schemaOf(contract, 'input'), (id) => (this.answeredNames.has(id) ? `${id}Sent` : id))
  }

  private taken({ $schema: _, $defs = {}, ...schema }: Found, nameOf: (id: string) => string): JsonSchema {
    for (const [id, part] of Object.entries($defs)) this.components[nameOf(id)] = withNames(part, nameOf) as JsonSchema
    return withNames(schema, nameOf) as JsonSchema
  }
}

type Found = JsonSchema & { $defs?: Record<string, JsonSchema> }

/** What a contract cannot say in JSON Schema, such as “the options of that protocol”, is anything. */
const schemaOf = (contract: z.ZodType, io: 'input' | 'output') =>
  z.toJSONSchema(contract, { io, unrepresentable: 'any', override: ({ jsonSchema }) => tellNeeded(jsonSchema) }) as Found

interface Part {
  default?: unknown
  required?: string[]
}

/** Parts that are filled in from nothing, for the sake of what is said of them, are needed all the same where something inside is. */
const tellNeeded = (schema: z.core.JSONSchema.BaseSchema) => {
  const parts = Object.entries((schema.properties ?? {}) as Record<string, Part>).filter(([, part]) => isEmpty(part.default))
  for (const [, part] of parts) delete part.default
  const needed = parts.filter(([, { required = [] }]) => required.length > 0).map(([name]) => name)
  if (needed.length > 0) schema.required = [...new Set([...(schema.required ?? []), ...needed])]
}

const isEmpty = (value: unknown) => typeof value === 'object' && value !== null && !Array.isArray(value) && Object.keys(value).length === 0

/** The same with references to the components. */
const withNames = (value: unknown, nameOf: (id: string) => string): unknown => {
  if (Array.isArray(value)) return value.map((part) => withNames(part, nameOf))
  if (typeof value !== 'object' || value === null) return value
  return Object.fromEntries(
    Object.entries(value).map(([key, part]) => [
      key,
      key === '$ref' ? `#/components/schemas/${nameOf(String(part).replace('#/$defs/', ''))}` : withNames(part, nameOf),
    ]),
  )
}
