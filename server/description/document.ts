import type { z } from 'zod'
import { roleText } from '#core/access/roles'
import type { FaultCode } from '#core/faults/catalogue'
import { bodySizes, isFile, type Operation } from '#shared/api/operation'
import { refusalContract } from '#shared/faults'
import { statusOf, usualRefusal } from '../answers/statuses'
import { curlOf } from './curl'
import { refusalsOf } from './refusals'
import { Schemas, type JsonSchema } from './schemas'

/** An OpenAPI 3.1 document, as far as it is made here. */
export type ApiDocument = ReturnType<typeof describe>

const mediaTypes = {
  json: 'application/json',
  lines: 'application/x-ndjson',
  text: 'text/plain',
  csv: 'text/csv',
  yaml: 'application/yaml',
  parquet: 'application/vnd.apache.parquet',
  zip: 'application/zip',
  pdf: 'application/pdf',
} as const

/**
 * The description of the API (OpenAPI 3.1.1), made from the contracts that the routes go by.
 *
 * @param operations every operation by its name
 * @param version of the product
 */
export const describe = (operations: readonly (readonly [name: string, Operation])[], version: string) => {
  const schemas = new Schemas()
  const refusal = schemas.answered(refusalContract.meta({ id: 'Refusal' }))
  const answers = new Map(operations.map(([name, { answer }]) => [name, schemas.answered(answer)]))
  const bodies = new Map(operations.map(([name, { body }]) => [name, bodyOf(body, schemas)]))
  const paths: Record<string, Record<string, ReturnType<typeof operationItem>>> = {}
  for (const [name, operation] of operations) {
    const item = operationItem(name, operation, { answer: answers.get(name)!, body: bodies.get(name)!, refusal })
    paths[operation.path] = { ...paths[operation.path], [operation.method.toLowerCase()]: item }
  }
  return {
    openapi: '3.1.1',
    info: { title: 'Keen Conduit', version, summary: 'Links to devices, tags, and outlets to their consumers', description: about },
    servers: [{ url: '/api' }],
    tags: [...new Set(operations.map(([, { group }]) => group))].map((name) => ({ name })),
    security: [{ token: [] }, { session: [] }],
    paths,
    components: {
      schemas: schemas.components,
      securitySchemes: {
        token: { type: 'http', scheme: 'bearer', description: 'A token that an administrator made under Site, People.' },
        session: { type: 'apiKey', in: 'cookie', name: 'conduit-session', description: 'Given at sign-in; scripts cannot read it.' },
      },
    },
  }
}

const about = [
  'Programs send a token as `Authorization: Bearer …`; pages their session’s cookie.',
  'Whatever is refused is answered as a `Refusal`: what failed, the evidence, whose side it is on, what to do, and what is wrong field by field.',
  'Every list takes `find`, `sort`, `offset` and `limit`, and answers with `total`, `offset` and `items`.',
  'Changes name the revision that they started from: nobody overwrites what somebody else did meanwhile.',
].join('\n\n')

interface Found {
  answer: JsonSchema
  body: JsonSchema | null
  refusal: JsonSchema
}

const operationItem = (name: string, operation: Operation, { answer, body, refusal }: Found) => {
  const { group, does, needs, as = 'json', size = 'usual', example } = operation
  return {
    operationId: name,
    tags: [group],
    summary: does,
    description: [neededText(needs), '```sh', curlOf(operation), '```'].join('\n'),
    'x-role': needs,
    ...(needs === 'anyone' ? { security: [] } : {}),
    parameters: parametersOf(operation),
    ...(body && {
      requestBody: {
        required: true,
        description: `At most ${sizeText(bodySizes[size])}.`,
        content: {
          [isFile(operation.body) ? 'text/csv' : 'application/json']: { schema: body, ...(example === undefined ? {} : { example }) },
        },
      },
    }),
    responses: {
      200: {
        description: as === 'lines' ? 'One line of JSON per part, as it happens. A refusal on the way is the last line.' : 'Done.',
        content: { [mediaTypes[as]]: { schema: answer } },
      },
      ...refusalResponses(operation, refusal),
    },
  }
}

/** A file is bytes, of which JSON Schema says nothing. */
const bodyOf = (body: z.ZodType | undefined, schemas: Schemas): JsonSchema | null =>
  body === undefined ? null : isFile(body) ? {} : schemas.sent(body)

const sizeText = (bytes: number) => (bytes >= 1024 * 1024 ? `${bytes / 1024 / 1024} MiB` : `${bytes / 1024} KiB`)

const neededText = (needs: Operation['needs']) => (needs === 'anyone' ? 'For anyone.' : `Needs the role *${needs}*: ${roleText[needs]}.`)

const parametersOf = ({ params, query = {} }: Operation) => {
  const schemas = new Schemas()
  return [
    ...Object.entries(params.shape as Record<string, z.ZodType>).map(([name, field]) => ({
      name,
      in: 'path',
      required: true,
      schema: schemas.answered(field),
    })),
    ...Object.entries(query as Record<string, z.ZodType>).map(([name, field]) => {
      const { description, ...schema } = schemas.answered(field)
      return { name, in: 'query', required: false, schema, ...(description ? { description } : {}) }
    }),
  ]
}

/** By status, which faults it stands for. */
const refusalResponses = (operation: Operation, schema: JsonSchema) => {
  const byStatus = new Map<number, FaultCode[]>()
  for (const code of refusalsOf(operation)) byStatus.set(statusOf(code), [...(byStatus.get(statusOf(code)) ?? []), code])
  const answered = [...byStatus].sort(([a], [b]) => a - b)
  return Object.fromEntries(
    answered.map(([status, codes]) => [
      status,
      {
        description: refusalText(codes, !!operation.farSide && status === usualRefusal),
        'x-faults': codes,
        content: { 'application/json': { schema } },
      },
    ]),
  )
}

const refusalText = (codes: readonly FaultCode[], farSide: boolean) =>
  `Refused: ${codes.map((code) => `\`${code}\``).join(', ')}${farSide ? '; or whatever the far side did, by its own fault' : ''}.`
