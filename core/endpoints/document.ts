import { rollupWays } from '../equipment/settings'
import { rights, type Right } from '../outlets/rules'
import { parametersOf, type Endpoint, type Parameter } from './settings'

/** What an outlet says of itself in OpenAPI 3.1, for one who came in. */

interface Described {
  name: string
  /** Which endpoints this one may ask. */
  endpoints: readonly Endpoint[]
  /** The most that this one may do anywhere. */
  may: Right
  /** Whether names come in. */
  hasNames: boolean
}

type Parts = Record<string, unknown>

export const describeOutlet = ({ name, endpoints, may, hasNames }: Described): Parts => ({
  openapi: '3.1.0',
  info: { title: name, version: '1', description: 'Tags of a plant, and what else is to be had here.' },
  servers: [{ url: '/' }],
  ...(hasNames ? { security: [{ token: [] }, { basic: [] }, {}] } : {}),
  paths: { ...(may === 'nothing' ? {} : tagPaths(rights.indexOf(may) >= rights.indexOf('write'))), ...ownPaths(endpoints) },
  components: {
    ...(hasNames
      ? {
          securitySchemes: {
            token: { type: 'http', scheme: 'bearer', description: 'name.token' },
            basic: { type: 'http', scheme: 'basic', description: 'Name, and the token as the password.' },
          },
        }
      : {}),
    schemas: { Sample: sample, Problem: problemSchema },
    responses: {
      Problem: { description: 'What failed, and what to do (RFC 9457).', ...content('application/problem+json', ref('Problem')) },
    },
  },
})

const ref = (name: string) => ({ $ref: `#/components/schemas/${name}` })
const content = (type: string, schema: object, more: object = {}) => ({ content: { [type]: { schema, ...more } } })
const refused = { $ref: '#/components/responses/Problem' }
const json = (description: string, schema: object) => ({ description, ...content('application/json', schema) })

const sample = {
  type: 'object',
  description: 'What a tag has now. Only with the quality “Good” is the value known to be good.',
  properties: {
    path: { type: 'string' },
    type: { type: 'string' },
    value: { description: 'Null where there never was one.' },
    time: { type: ['string', 'null'], format: 'date-time', description: 'When it was so at its source.' },
    quality: { type: 'string', description: 'Name of an OPC UA status code (OPC 10000-4, 7.38).' },
    unit: { type: 'string' },
    name: { type: 'string', description: 'What the value is called, where it has a name.' },
  },
  required: ['path', 'type', 'value', 'time', 'quality'],
}
const problemSchema = {
  type: 'object',
  properties: {
    type: { type: 'string' },
    title: { type: 'string' },
    status: { type: 'integer' },
    detail: { type: 'string' },
    next: { type: 'string', description: 'What to do.' },
    side: { type: 'string', description: 'Whose side it is on.' },
  },
}
const pastItem = {
  type: 'object',
  description: 'A sample has a time, a window has a beginning and an end.',
  properties: {
    ...{ value: {}, quality: { type: 'string' }, time: { type: 'string', format: 'date-time' } },
    ...{ from: { type: 'string', format: 'date-time' }, to: { type: 'string', format: 'date-time' } },
  },
}
const list = (items: object, more: object = {}) => ({ type: 'object', properties: { items: { type: 'array', items }, ...more } })
const queried = (name: string, description: string, schema: object) => ({ name, in: 'query', required: false, description, schema })
const many = { type: 'array', items: { type: 'string' } }
const tagPath = { name: 'path', in: 'path', required: true, description: 'With its “/”.', schema: { type: 'string' }, allowReserved: true }

const tagPaths = (mayWrite: boolean): Parts => ({
  '/tags': {
    get: {
      ...{ tags: ['Tags'], operationId: 'listTags', summary: 'Tags of a folder, or those named, with what they have now.' },
      parameters: [
        queried('folder', 'With all below it; without one, the whole site.', { type: 'string' }),
        queried('path', 'These, in this order.', many),
        queried('limit', 'So many at most.', { type: 'integer', default: 1000, maximum: 10_000 }),
        queried('after', 'Goes on behind this path: “next” of the answer before.', { type: 'string' }),
      ],
      responses: { 200: json('Tags.', list(ref('Sample'), { next: { type: ['string', 'null'] } })), default: refused },
    },
  },
  '/tags/{path}': {
    get: {
      ...{ tags: ['Tags'], operationId: 'readTag', summary: 'One tag.', parameters: [tagPath] },
      responses: { 200: json('What it has now.', ref('Sample')), 404: refused, default: refused },
    },
    ...(mayWrite
      ? {
          put: {
            ...{ tags: ['Tags'], operationId: 'writeTag', summary: 'Sets a tag that may be written.', parameters: [tagPath] },
            requestBody: {
              required: true,
              ...content('application/json', { type: 'object', properties: { value: {} }, required: ['value'] }),
            },
            responses: { 200: json('Written; what it has now.', ref('Sample')), default: refused },
          },
        }
      : {}),
  },
  '/tags/read': {
    post: {
      ...{ tags: ['Tags'], operationId: 'readTags', summary: 'Many tags by their paths.' },
      requestBody: { required: true, ...content('application/json', { type: 'object', properties: { paths: many }, required: ['paths'] }) },
      responses: { 200: json('In the order in which they were asked for.', list(ref('Sample'))), default: refused },
    },
  },
  ...(mayWrite
    ? {
        '/tags/write': {
          post: {
            ...{ tags: ['Tags'], operationId: 'writeTags', summary: 'Sets many tags; each is told by itself.' },
            requestBody: {
              required: true,
              ...content(
                'application/json',
                list({ type: 'object', properties: { path: { type: 'string' }, value: {} }, required: ['path', 'value'] }),
              ),
            },
            responses: {
              200: json(
                'What became of each.',
                list({ type: 'object', properties: { path: { type: 'string' }, written: { type: 'boolean' }, problem: ref('Problem') } }),
              ),
              default: refused,
            },
          },
        },
      }
    : {}),
  '/history/{path}': {
    get: {
      ...{ tags: ['Tags'], operationId: 'readHistory', summary: 'What was recorded of a tag: single samples, or what became of windows.' },
      parameters: [
        tagPath,
        queried('from', 'A time by ISO 8601, or Unix milliseconds; without it an hour before “to”.', { type: 'string' }),
        queried('to', 'Up to but without; without it now.', { type: 'string' }),
        queried('limit', 'So many samples at most.', { type: 'integer', default: 1000, maximum: 10_000 }),
        queried('each', 'Instead of samples one value for each window: “15 minute”, “hour”, “day”, by the clock of the site.', {
          type: 'string',
        }),
        queried('how', 'What is said of a window.', { type: 'string', enum: rollupWays, default: 'mean by time' }),
      ],
      responses: {
        200: json('In the order of time.', list(pastItem, { next: { type: ['string', 'null'], description: '“from” of what follows.' } })),
        404: refused,
        default: refused,
      },
    },
  },
  '/changes': {
    get: {
      ...{ tags: ['Tags'], operationId: 'followChanges', summary: 'What tags have, and then every change, as server-sent events.' },
      parameters: [queried('folder', 'May stand more than once.', many), queried('path', 'May stand more than once.', many)],
      responses: { 200: { description: 'Each event is a Sample.', ...content('text/event-stream', { type: 'string' }) }, default: refused },
    },
  },
})

const ownPaths = (endpoints: readonly Endpoint[]): Parts => {
  const paths: Record<string, Parts> = {}
  for (const endpoint of endpoints) (paths[endpoint.path] ??= {})[endpoint.method.toLowerCase()] = operationOf(endpoint)
  return paths
}

const operationOf = (endpoint: Endpoint): Parts => {
  const { about, method, path, does, missing, answer } = endpoint
  const parameters = parametersOf(endpoint)
  const inBody = parameters.filter((one) => one.in === 'body')
  const example = answer.trim() === '' ? {} : { example: JSON.parse(answer) as unknown }
  const status = does.kind === 'message' && does.answers === 'kept' ? 202 : 200
  return {
    ...{ tags: ['Endpoints'], operationId: operationId(method, path), summary: about || `${method} ${path}` },
    parameters: parameters.filter((one) => one.in !== 'body').map(parameterOf),
    ...(method === 'GET' ? {} : { requestBody: bodyOf(inBody) }),
    responses: {
      [status]: { description: does.kind === 'message' ? 'Taken.' : 'Found.', ...content('application/json', {}, example) },
      ...(does.kind !== 'message' && missing === 204 ? { 204: { description: 'Nothing was found.' } } : {}),
      ...(does.kind !== 'message' && missing === 404 ? { 404: refused } : {}),
      default: refused,
    },
  }
}

const operationId = (method: string, path: string) => `${method.toLowerCase()}${path.replaceAll(/[^A-Za-z0-9]+/g, '_').replace(/_$/, '')}`

const parameterOf = (one: Parameter): Parts => ({
  name: one.in === 'header' ? one.name.replaceAll('_', '-') : one.name,
  ...{ in: one.in, required: one.required, schema: schemaOf(one) },
  ...(one.about ? { description: one.about } : {}),
})

const bodyOf = (parameters: readonly Parameter[]): Parts => ({
  required: parameters.some(({ required }) => required),
  ...content('application/json', {
    type: 'object',
    properties: Object.fromEntries(
      parameters.map((one) => [one.name, { ...schemaOf(one), ...(one.about ? { description: one.about } : {}) }]),
    ),
    required: parameters.filter(({ required }) => required).map(({ name }) => name),
  }),
})

const schemaOf = ({ type, least, most, choices }: Parameter): Parts => {
  const bounds = type === 'text' ? ['minLength', 'maxLength'] : ['minimum', 'maximum']
  return {
    ...{
      text: { type: 'string' },
      whole: { type: 'integer' },
      number: { type: 'number' },
      truth: { type: 'boolean' },
      time: { type: 'string', format: 'date-time' },
    }[type],
    ...(least === null ? {} : { [bounds[0]!]: least }),
    ...(most === null ? {} : { [bounds[1]!]: most }),
    ...(choices.length > 0
      ? { enum: type === 'text' || type === 'time' ? choices : choices.map((one) => (type === 'truth' ? one === 'true' : Number(one))) }
      : {}),
  }
}
