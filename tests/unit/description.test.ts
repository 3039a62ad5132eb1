import SwaggerParser from '@apidevtools/swagger-parser'
import { readdirSync } from 'node:fs'
import { join } from 'node:path'
import { describe, expect, it } from 'vitest'
import { changeLink, listLinks, makeLink, removeLink, trafficQuery } from '#shared/api/links'
import { addressOf, isFile } from '#shared/api/operation'
import { operations } from '#shared/api/registry'
import { listTags } from '#shared/api/tags'
import { curlOf } from '../../server/description/curl'
import { describe as describeApi } from '../../server/description/document'

/** The description of the API, made from the contracts that its routes go by. */

const document = describeApi(operations, '1.2.3')
const folder = join(import.meta.dirname, '../../server/api')

/** The routes as the files name them. */
const routeFiles = () =>
  readdirSync(folder, { recursive: true, encoding: 'utf8' })
    .filter((file) => file.endsWith('.ts') && !file.startsWith('[...'))
    .map((file) => {
      const [, path, method] = /^(.*?)(?:\/index)?\.(get|post|put|delete)\.ts$/.exec(file)!
      return `${method!.toUpperCase()} /${path!.replace(/\[(\w+)\]/g, '{$1}')}`
    })

describe('the description', () => {
  it('is a valid document of OpenAPI 3.1, by its own schema', async () => {
    const valid = await SwaggerParser.validate(structuredClone(document) as never)
    expect(valid.info.title).toBe('Keen Conduit')
  })

  it('has every route file, and every operation is a route file', () => {
    const described = operations.map(([, { method, path }]) => `${method} ${path}`)
    expect(described.sort()).toEqual(routeFiles().sort())
  })

  it.each(operations)('%s says what it does, with a body that may be sent', (_, { does, body, example }) => {
    expect(does).toMatch(/^[A-Z].*\.$/)
    const isJson = body !== undefined && !isFile(body)
    expect(example !== undefined).toBe(isJson)
    if (isJson) expect(body.safeParse(example).error?.issues ?? []).toEqual([])
  })

  it('tells roles, refusals by status, and what is needed at least', () => {
    const { post } = document.paths['/links']!
    expect(post!['x-role']).toBe('configure')
    expect(post!.responses).toMatchObject({
      401: { 'x-faults': ['access.sign-in'] },
      409: { 'x-faults': ['entry.taken', 'case.fixed'] },
      413: { 'x-faults': ['entry.too-large'] },
    })
    const sent = document.components.schemas.LinkDraft as {
      oneOf: { required: string[]; properties: { settings: { required: string[] } } }[]
    }
    expect(sent.oneOf[0]!.required).toEqual(expect.arrayContaining(['name', 'kind', 'settings']))
    expect(sent.oneOf[0]!.properties.settings.required).toEqual(['host'])
    expect(document.paths['/health']!.get!.security).toEqual([])
  })

  it('has parameters as they are meant, though all of them travel as text', () => {
    expect(document.paths['/links/{id}/traffic']!.get!.parameters).toEqual([
      { name: 'id', in: 'path', required: true, schema: { type: 'integer', minimum: 1, maximum: 2_147_483_647 } },
      expect.objectContaining({ name: 'after', in: 'query', required: false }),
      expect.objectContaining({ name: 'limit', schema: { type: 'integer', minimum: 1, maximum: 1000, default: 500 } }),
    ])
    expect(Object.keys(trafficQuery)).toEqual(['after', 'limit'])
  })

  it('tells of secrets how they are given, and not how they are stored', () => {
    const text = JSON.stringify(document)
    expect(text).toContain('"plain"')
    expect(text).not.toMatch(/"sealed"|"hashed"/)
  })

  it('has every list in one form', () => {
    const lists = operations.filter(
      ([, { method, answer }]) =>
        method === 'GET' && 'shape' in answer && ['items', 'total'].every((name) => name in (answer.shape as object)),
    )
    expect(lists.map(([name]) => name)).toEqual(
      expect.arrayContaining([
        'listLinks',
        'listTags',
        'listOutlets',
        'listPeople',
        'listTokens',
        'listRevisions',
        'listJournal',
        'listWrites',
      ]),
    )
    for (const [name, { query }] of lists)
      expect(Object.keys(query!), name).toEqual(expect.arrayContaining(['find', 'sort', 'offset', 'limit']))
  })
})

describe('an address', () => {
  it('has what was given in it, and leaves out what has no value', () => {
    expect(addressOf(changeLink, { params: { id: 7 } })).toBe('/links/7')
    expect(addressOf(removeLink, { params: { id: 7 }, query: { tags: 'remove' } })).toBe('/links/7?tags=remove')
    expect(addressOf(listTags, { query: { find: 'a & b', below: '', link: null, limit: 20 } })).toBe('/tags?find=a+%26+b&limit=20')
    expect(addressOf(listLinks, {})).toBe('/links')
  })
})

describe('an example for the shell', () => {
  it('sends a token and the body, and survives a quote in it', () => {
    expect(curlOf({ ...makeLink, example: { name: "O'Hara" } })).toBe(
      [
        'curl -X POST "$CONDUIT/api/links" \\',
        '  -H "Authorization: Bearer $TOKEN" \\',
        "  -H 'Content-Type: application/json' \\",
        `  -d '{"name":"O'\\''Hara"}'`,
      ].join('\n'),
    )
  })
})
