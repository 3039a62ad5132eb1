import { expect } from 'vitest'
import type { Answer } from './describedCalls'
import { until } from './until'

type Call = (method: string, path: string, body?: unknown) => Promise<Answer>

/** Every operation of bridges and of the tables that they write into, once. */
export const callBridges = async (call: Call, databaseUrl: string) => {
  const { hostname, port, username, password, pathname } = new URL(databaseUrl)
  const settings = {
    host: hostname,
    port: Number(port),
    database: pathname.slice(1),
    user: username,
    password: { plain: decodeURIComponent(password) },
  }
  const { id: linkId } = (await call('POST', '/links', { name: 'Rows', kind: 'sql', settings })).body as unknown as { id: number }
  await until(async () => (await call('GET', `/links/${linkId}/tables`)).status === 200)
  const table = {
    table: 'described',
    columns: [
      { name: 'at', type: 'timestamptz' },
      { name: 'kwh', type: 'smallint' },
    ],
  }
  const make = async (run: boolean) => (await call('POST', `/links/${linkId}/create-table`, { table, run })).body
  expect(await make(false)).toEqual({ statements: ['create table "described" (\n  "at" timestamptz,\n  "kwh" smallint\n)'] })
  await make(true)
  expect(await make(true)).toMatchObject({ fault: { code: 'sql.statement', what: expect.stringContaining('42P07') as string } })
  expect(
    (await call('POST', `/links/${linkId}/create-table`, { table: { ...table, columns: [{ name: 'a', type: 'int); drop table link' }] } }))
      .body,
  ).toMatchObject({
    fault: { code: 'entry.invalid' },
  })
  expect((await call('POST', `/links/${linkId}/table`, { schema: '', table: 'described' })).body).toMatchObject({
    columns: [{ name: 'at' }, { name: 'kwh', type: 'smallint' }],
  })
  expect((await call('POST', `/links/${linkId}/table`, { schema: '', table: 'nowhere' })).body).toMatchObject({
    fault: { code: 'sql.no-table' },
  })

  const take = [{ name: 'kwh', kind: 'constant', value: 70000 }]
  const fields = [
    { into: 'at', from: 'now' },
    { into: 'kwh', from: 'kwh' },
  ]
  const bridge = { name: 'Described', take, send: [{ kind: 'table', number: 1, linkId, table: 'described', fields }] }
  const trial = (await call('POST', '/bridges/preview', { bridge })).body
  expect(trial).toMatchObject({
    destinations: [
      {
        fields: [
          { how: 'exact', comes: 'datetime' },
          { how: 'range', type: 'smallint' },
        ],
      },
    ],
  })
  const saved = (await call('POST', '/bridges', bridge)).body as unknown as { id: number; revision: number }
  const at = `/bridges/${saved.id}`
  expect((await call('POST', '/bridges', bridge)).body).toMatchObject({ fault: { code: 'entry.taken' } })
  await call('GET', '/bridges?sort=-revision')
  await call('GET', at)
  await until(async () => (await call('POST', `${at}/run`)).status === 200)
  const refused = async () => (await call('GET', `${at}/refused`)).body.items as { key: string }[]
  await until(async () => (await refused()).length > 0)
  await until(async () => ((await call('GET', `${at}/runs`)).body.items as { outcome: string }[])[0]?.outcome === 'refused')
  await call('POST', `${at}/check`)
  expect((await call('GET', `${at}/checks`)).body).toMatchObject([{ of: 'bridge', outcome: 'stopped' }])
  const keys = (await refused()).map(({ key }) => key)
  const mended = { key: keys[0]!, values: [{ into: 'kwh', text: '7000' }] }
  expect((await call('POST', `${at}/mend`, mended)).body).toEqual({ sent: true })
  expect((await call('POST', `${at}/mend`, mended)).body).toMatchObject({ fault: { code: 'bridge.no-record' } })
  const left = keys.slice(1)
  if (left.length > 0)
    expect((await call('POST', `${at}/refused`, { keys: left, then: 'drop' })).body).toEqual({ settled: left.length, unfit: 0 })
  else await call('POST', `${at}/refused`, { keys, then: 'drop' })
  expect((await call('PUT', at, { revision: 0, bridge })).status).toBe(422)
  const changed = await call('PUT', at, { revision: saved.revision, bridge: { ...bridge, on: false } })
  expect(changed.body).toMatchObject({ on: false })
  await until(async () => (await call('POST', `${at}/run`)).status === 409)
  expect((await call('PUT', at, { revision: saved.revision, bridge })).body).toMatchObject({ fault: { code: 'entry.edited' } })
  await call('DELETE', at)
  expect((await call('GET', at)).status).toBe(404)
  await callRecordSets(call, linkId)
  await call('DELETE', `/links/${linkId}`)
}

/** Every operation of record sets, once, over a table of the same link. */
const callRecordSets = async (call: Call, linkId: number) => {
  const how = { kind: 'snapshot', from: { kind: 'table', table: 'described' } }
  const recordSet = { name: 'Described rows', linkId, folder: 'rows_described', how }
  expect((await call('POST', '/record-sets/preview', { recordSet })).body).toMatchObject({
    fault: null,
    columns: [
      { name: 'at', type: 'datetime' },
      { name: 'kwh', type: 'int16' },
    ],
  })
  const nowhere = { ...recordSet, how: { ...how, from: { kind: 'table', table: 'nowhere' } } }
  expect((await call('POST', '/record-sets/preview', { recordSet: nowhere })).body).toMatchObject({ fault: { code: 'sql.statement' } })
  expect((await call('POST', '/record-sets', { ...recordSet, linkId: 999_999 })).body).toMatchObject({ fault: { code: 'entry.invalid' } })
  const saved = (await call('POST', '/record-sets', recordSet)).body as unknown as { id: number; revision: number }
  const at = `/record-sets/${saved.id}`
  const twin = await call('POST', '/record-sets', { ...recordSet, folder: 'elsewhere' })
  expect(twin.body).toMatchObject({ fault: { code: 'entry.taken' } })
  await call('GET', '/record-sets?sort=-revision')
  await call('GET', at)
  await until(async () => (await call('POST', `${at}/read`)).status === 200)
  await until(async () => Number((await call('GET', '/tags?below=rows_described')).body.total) >= 6)
  const moved = { revision: saved.revision, recordSet: { ...recordSet, folder: 'described_rows' } }
  expect((await call('PUT', at, moved)).body).toMatchObject({ folder: 'described_rows' })
  expect((await call('GET', '/tags?below=rows_described')).body.items).toEqual([])
  expect((await call('PUT', at, moved)).body).toMatchObject({ fault: { code: 'entry.edited' } })
  expect((await call('DELETE', `/links/${linkId}`)).body).toMatchObject({ fault: { code: 'entry.in-use' } })
  await call('DELETE', at)
  await until(async () => (await call('POST', `${at}/read`)).status === 404)
  expect((await call('GET', '/tags?below=described_rows')).body.total).toBe(0)
}
