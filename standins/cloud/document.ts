/** What the platform says of itself (OpenAPI 3.1). */

const json = (schema: object) => ({ content: { 'application/json': { schema } } })
const text = { type: 'string' }
const problem = (description: string) => ({
  description,
  content: { 'application/problem+json': { schema: { $ref: '#/components/schemas/Problem' } } },
})
const refusals = {
  401: problem('The token is not, or no longer, good.'),
  413: problem('The body is larger than what is taken at once.'),
  429: problem('Too much comes; Retry-After says how long to wait.'),
}
const site = { name: 'site', in: 'path', required: true, schema: text, description: 'The name of the site; an unknown one is made.' }
const list = (name: string) => ({ type: 'array', items: { $ref: `#/components/schemas/${name}` } })

export const cloudDocument = (base: string) => ({
  openapi: '3.1.0',
  info: {
    title: 'Port cloud',
    version: '1.0.0',
    description:
      'Takes classes, equipment and streams of values of sites. Bodies are JSON, and may be packed with gzip (Content-Encoding). By MQTT 5 the same bodies go to conduit/{site}/model, conduit/{site}/model/steps and conduit/{site}/values, packed with gzip, with a response topic and correlation data; the answer is {"status", "after", "detail", "at", "answer"}.',
  },
  servers: [{ url: `${base}/v1` }],
  security: [{ token: [] }],
  paths: {
    '/sites/{site}/model': {
      parameters: [site],
      get: {
        operationId: 'model',
        summary: 'Classes and equipment of the site, whoever made them.',
        responses: { 200: { description: 'The model.', ...json({ $ref: '#/components/schemas/Model' }) }, ...refusals },
      },
      post: {
        operationId: 'change',
        summary: 'Carries out steps in their order, each by itself, and tells what became of each.',
        requestBody: { required: true, ...json({ type: 'object', properties: { steps: list('Step') }, required: ['steps'] }) },
        responses: {
          200: { description: 'As many results as steps.', ...json({ type: 'object', properties: { results: list('Result') } }) },
          ...refusals,
        },
      },
    },
    '/sites/{site}/values': {
      parameters: [site],
      post: {
        operationId: 'values',
        summary: 'Takes values. A parcel whose id was taken before is not taken again; of one that was taken in part, only the rest is.',
        requestBody: { required: true, ...json({ type: 'object', properties: { parcels: list('Parcel') }, required: ['parcels'] }) },
        responses: { 200: { description: 'What was taken, and what not.', ...json({ $ref: '#/components/schemas/Taken' }) }, ...refusals },
      },
    },
  },
  components: {
    securitySchemes: { token: { type: 'http', scheme: 'bearer' } },
    schemas: {
      Model: { type: 'object', properties: { classes: list('Class'), equipment: list('Equipment') } },
      Class: {
        type: 'object',
        properties: { id: text, key: text, name: text, parent: text, level: text, description: text, properties: list('Property') },
        required: ['key', 'name'],
      },
      Property: {
        type: 'object',
        properties: {
          name: text,
          title: text,
          role: { enum: ['constant', 'value'] },
          type: text,
          unit: text,
          description: text,
          value: {},
        },
        required: ['name', 'role', 'type'],
      },
      Equipment: {
        type: 'object',
        properties: {
          ...{ id: text, key: text, name: text, parent: text, class: text, level: text, description: text },
          constants: { type: 'object', additionalProperties: {} },
          streams: { type: 'object', additionalProperties: text, description: 'The key of the stream of each value.' },
          relations: { type: 'array', items: { type: 'object', properties: { kind: text, to: text } } },
        },
        required: ['key', 'name'],
      },
      Step: {
        type: 'object',
        properties: {
          does: { enum: ['put class', 'put equipment', 'remove class', 'remove equipment'] },
          id: { type: 'string', description: 'Which one there; empty: the one of its key, or a new one.' },
          put: { anyOf: [{ $ref: '#/components/schemas/Class' }, { $ref: '#/components/schemas/Equipment' }] },
        },
        required: ['does'],
      },
      Result: { type: 'object', properties: { ok: { type: 'boolean' }, why: text }, required: ['ok'] },
      Parcel: {
        type: 'object',
        properties: { id: text, streams: list('Stream') },
        required: ['id', 'streams'],
      },
      Stream: {
        type: 'object',
        properties: {
          ...{ key: text, path: text, type: text, unit: text },
          samples: {
            type: 'array',
            items: { type: 'array', minItems: 2, maxItems: 3 },
            description: '[time in Unix milliseconds, value] or, where its quality is not Good, [time, value, quality].',
          },
        },
        required: ['key', 'path', 'type', 'samples'],
      },
      Taken: {
        type: 'object',
        properties: {
          taken: { type: 'integer' },
          refused: {
            type: 'array',
            items: { type: 'object', properties: { key: text, count: { type: 'integer' }, why: text, later: { type: 'boolean' } } },
          },
        },
        required: ['taken', 'refused'],
      },
      Problem: { type: 'object', properties: { status: { type: 'integer' }, detail: text } },
    },
  },
})

const escaped = (words: string) => words.replaceAll('&', '&amp;').replaceAll('<', '&lt;')

/** The same, to be read by people. */
export const documentPage = (base: string): string => {
  const { info, paths, components } = cloudDocument(base)
  const calls = Object.entries(paths).flatMap(([path, of]) =>
    Object.entries(of)
      .filter(([method]) => method !== 'parameters')
      .map(
        ([method, call]) => `<h2>${method.toUpperCase()} /v1${escaped(path)}</h2><p>${escaped((call as { summary: string }).summary)}</p>`,
      ),
  )
  const forms = Object.entries(components.schemas).map(
    ([name, schema]) => `<h3>${name}</h3><pre>${escaped(JSON.stringify(schema, null, 2))}</pre>`,
  )
  return `<!doctype html><html lang="en"><meta charset="utf-8"><title>${info.title}: its interface</title>
<style>body{font:15px/1.5 system-ui,sans-serif;margin:24px auto;max-width:900px;padding:0 16px}pre{background:#f1efe8;padding:12px;overflow:auto}</style>
<h1>${info.title}</h1><p>${escaped(info.description)}</p><p>A token as Bearer goes with every call. The same as <a href="/openapi.json">OpenAPI 3.1</a>.</p>
${calls.join('\n')}${forms.join('\n')}</html>`
}
