/** What the tariff and grid service says of itself (OpenAPI 3.1). */

const quarter = {
  type: 'object',
  properties: {
    from: { type: 'string', format: 'date-time' },
    to: { type: 'string', format: 'date-time' },
    price: { type: 'number', description: 'EUR/MWh' },
  },
  required: ['from', 'to', 'price'],
}
const problem = { type: 'object', properties: { title: { type: 'string' }, status: { type: 'integer' } } }
const json = (schema: object) => ({ content: { 'application/json': { schema } } })
const refused = (description: string) => ({
  description,
  content: { 'application/problem+json': { schema: { $ref: '#/components/schemas/Problem' } } },
})

export const tariffDocument = (base: string) => ({
  openapi: '3.1.0',
  info: {
    title: 'Harrow Sound tariffs and grid',
    version: '1.4.0',
    description: 'Prices by quarter hour, the state of the grid, and the calls of ships.',
  },
  servers: [{ url: `${base}/v1` }],
  security: [{ key: [] }],
  paths: {
    '/tariffs/{zone}': {
      get: {
        operationId: 'tariff',
        summary: 'Prices of a day, by quarter hour, and the one of now.',
        parameters: [
          { name: 'zone', in: 'path', required: true, schema: { type: 'string', enum: ['north', 'south'] } },
          { name: 'day', in: 'query', schema: { type: 'string', format: 'date' }, description: 'Absent: today (UTC).' },
        ],
        responses: {
          200: { description: 'The day.', ...json({ $ref: '#/components/schemas/Tariff' }) },
          304: { description: 'As it was.' },
          404: refused('No such zone.'),
          429: refused('Too many calls; Retry-After says when.'),
          503: refused('Being looked after; Retry-After says when.'),
        },
      },
    },
    '/grid': {
      get: {
        operationId: 'grid',
        summary: 'The grid now.',
        responses: { 200: { description: 'Now.', ...json({ $ref: '#/components/schemas/Grid' }) } },
      },
    },
    '/calls': {
      get: {
        operationId: 'calls',
        summary: 'What was handed in, the newest first.',
        responses: { 200: { description: 'Calls.', ...json({ type: 'array', items: { $ref: '#/components/schemas/Call' } }) } },
      },
      post: {
        operationId: 'addCall',
        summary: 'Hands in what a ship took. The same Idempotency-Key is taken once.',
        parameters: [{ name: 'Idempotency-Key', in: 'header', schema: { type: 'string' } }],
        requestBody: { required: true, ...json({ $ref: '#/components/schemas/Call' }) },
        responses: { 201: { description: 'Taken.' }, 200: { description: 'Taken before.' }, 422: refused('Something is missing.') },
      },
    },
  },
  components: {
    securitySchemes: { key: { type: 'apiKey', in: 'header', name: 'X-API-Key' } },
    schemas: {
      Quarter: quarter,
      Tariff: {
        type: 'object',
        properties: {
          zone: { type: 'string' },
          day: { type: 'string', format: 'date' },
          currency: { type: 'string' },
          now: { $ref: '#/components/schemas/Quarter' },
          quarters: { type: 'array', items: { $ref: '#/components/schemas/Quarter' } },
        },
        required: ['zone', 'day', 'now', 'quarters'],
      },
      Grid: {
        type: 'object',
        properties: {
          at: { type: 'string', format: 'date-time' },
          frequency_hz: { type: 'number' },
          load_mw: { type: 'number' },
          co2_g_per_kwh: { type: 'integer' },
        },
        required: ['at', 'frequency_hz', 'load_mw'],
      },
      Call: {
        type: 'object',
        properties: { berth: { type: 'string' }, voyage: { type: 'string' }, kwh: { type: 'number' }, price: { type: 'number' } },
        required: ['berth', 'kwh'],
      },
      Problem: problem,
    },
  },
})
