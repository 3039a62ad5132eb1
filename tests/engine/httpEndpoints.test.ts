import { afterEach, describe, expect, it } from 'vitest'
import { endpointContract } from '#core/endpoints/settings'
import { TagShelf } from '#engine/outlets/http/tagShelf'
import { tryEndpoint } from '#engine/outlets/http/tryEndpoint'
import { asOutletTag } from '#engine/tags/tagRegister'
import { httpServerSettings } from '#shared/outlets/httpServer'
import { outletContract } from '#shared/outlets/outlet'
import { freePort } from '../../launcher/ports.mjs'
import { bridgeDraft, bridgeSite, memoryTag, otherDatabase } from '../support/bridgeSite'
import { closeAll, type Closing } from '../support/engineOn'
import { until } from '../support/until'

/** Endpoints of a person's own, over a real database and real bridges; who asks is Node's own fetch. */

const closing: Closing = []
afterEach(() => closeAll(closing))

const siteWith = async (endpoints: (ids: { book: number }) => object[], more: object = {}) => {
  const site = await bridgeSite(closing)
  const database = await otherDatabase(closing)
  await database.query(
    'create table call (id integer primary key, berth text, voyage text, kwh numeric(12,3), arrived timestamptz, ship text)',
  )
  await database.query(`insert into call values
    (1, '2', 'NF-118', 1280.125, '2026-11-27T06:00:00Z', 'Aurora'), (2, '2', 'NF-118', 3.5, '2026-11-27T07:00:00Z', null),
    (3, '1', 'it''s', 7, null, 'Bård')`)
  const book = await site.link({ name: 'Call book', kind: 'sql', settings: database.settings })
  const port = await freePort()
  const settings = httpServerSettings.parse({ doors: [{ port }], endpoints: endpoints({ book }), ...more })
  const draft = outletContract.parse({ name: 'Office', kind: 'http-server', settings })
  const [outlet] = (await site.change((editor) => editor.insert('outlet', [draft]))) as { id: number }[]
  await until(() => site.engine.outlet(outlet!.id)!.status().flow === 'flowing')
  const ask = async (path: string, init: RequestInit = {}) => {
    const response = await fetch(`http://127.0.0.1:${port}${path}`, init)
    const text = await response.text()
    return { status: response.status, text, body: text === '' ? null : (JSON.parse(text) as Record<string, unknown>) }
  }
  const post = (path: string, body: unknown) =>
    ask(path, { method: 'POST', body: JSON.stringify(body), headers: { 'content-type': 'application/json' } })
  return { ...site, database, book, outletId: outlet!.id, ask, post }
}

describe('an endpoint that is tried before it is saved', () => {
  const trialOn = (site: Awaited<ReturnType<typeof siteWith>>) => {
    const { table, tags } = site.engine
    const shelf = new TagShelf(table)
    shelf.setTags([...tags.all()].map(asOutletTag), [])
    const around = { shelf, table, outlet: 'Office', site: () => 'Port', link: (id: number) => site.engine.link(id) }
    return (endpoint: object, given: Record<string, string> = {}, body = '') =>
      tryEndpoint(endpointContract.parse(endpoint), { given, body }, around)
  }
  const rows = (linkId: number, statement = 'select kwh from call where id = {id}') => ({
    ...{ method: 'GET', path: '/calls/{id}', does: { kind: 'rows', linkId, statement } },
    parameters: [{ name: 'id', in: 'path', type: 'whole' }],
  })

  it('answers as it will, with the status it will have', async () => {
    const site = await siteWith(() => [])
    const tried = trialOn(site)
    expect(await tried(rows(site.book), { id: '1' })).toMatchObject({
      ...{ request: 'GET /calls/1', status: 200, body: '{"kwh":"1280.125"}', shortened: 'no', handed: null },
    })
    expect(await tried(rows(site.book), { id: '77' })).toMatchObject({ status: 404 })
    expect(await tried(rows(site.book), { id: "1; x'" })).toMatchObject({
      ...{ request: "GET /calls/1%3B%20x'", status: 400, body: expect.stringContaining('it is no whole number') as string },
    })
    expect(await tried(rows(site.book, 'select nothing_there from call'), { id: '1' })).toMatchObject({
      ...{ status: 502, body: expect.stringContaining('nothing_there') as string },
    })
    expect(await tried(rows(4711), { id: '1' })).toMatchObject({ status: 422 })
  })
  it('shows the message that bridges would get, and hands none on', async () => {
    const site = await siteWith(() => [])
    const id = await site.bridge(
      bridgeDraft({
        when: [{ kind: 'client', outletId: site.outletId, filter: 'visits' }],
        take: [{ name: 'id', kind: 'member', path: '$.berth' }],
        send: [{ kind: 'table', number: 1, linkId: site.book, table: 'call', fields: [{ into: 'id', from: 'id' }] }],
      }),
    )
    const visit = { method: 'POST', path: '/visits', does: { kind: 'message', topic: 'visits', answers: 'outcome' } }
    const tried = trialOn(site)
    const parameters = [{ name: 'berth', in: 'body', type: 'whole' }]
    expect(await tried({ ...visit, parameters }, { berth: '2' })).toMatchObject({
      ...{ status: 200, body: '{"outcome":"delivered"}', handed: { topic: 'visits', payload: '{"berth":2}' } },
    })
    expect(await tried(visit, {}, '{"any": [1]}')).toMatchObject({ handed: { payload: '{"any": [1]}' } })
    expect(await tried(visit, {}, '{"any":')).toMatchObject({ status: 400, handed: null })
    expect(site.status(id).destinations[0]).toMatchObject({ delivered: 0, kept: 0 })
    expect(await site.database.query('select from call')).toHaveLength(3)
  })
})

describe('an endpoint that looks up in a database', () => {
  const energy = (linkId: number, more: object = {}, does: object = {}) => ({
    path: '/berths/{berth}/calls/{voyage}/energy',
    does: {
      kind: 'rows',
      linkId,
      statement: 'select kwh, arrived, ship from call where berth = {berth} and voyage = {voyage} order by id',
      ...does,
    },
    ...more,
  })

  it('answers with the row that is found, each value as the database has it', async () => {
    const { ask } = await siteWith(({ book }) => [
      energy(book, { answer: '{"berth":"{berth}","energy":{"kwh":"{kwh}"},"text":"{ship} at {berth}"}' }),
    ])
    expect((await ask('/berths/2/calls/NF-118/energy')).text).toBe('{"berth":"2","energy":{"kwh":"1280.125"},"text":"Aurora at 2"}')
  })
  it('answers with all rows, by an example with one of them', async () => {
    const { ask } = await siteWith(({ book }) => [
      energy(
        book,
        { answer: '{"voyage":"{voyage}","count":"{count}","calls":[{"kwh":"{kwh}","at":"{arrived}","ship":"{ship}"}]}' },
        { many: true },
      ),
      energy(book, { path: '/plain/{berth}/{voyage}' }, { many: true, most: 1 }),
    ])
    expect((await ask('/berths/2/calls/NF-118/energy')).body).toEqual({
      voyage: 'NF-118',
      count: 2,
      calls: [
        { kwh: '1280.125', at: '2026-11-27T06:00:00.000Z', ship: 'Aurora' },
        { kwh: '3.500', at: '2026-11-27T07:00:00.000Z', ship: null },
      ],
    })
    expect((await ask('/plain/2/NF-118')).body).toHaveLength(1)
  })
  it('takes what is given as a value, never as a part of the statement', async () => {
    const { ask, database } = await siteWith(({ book }) => [energy(book)])
    expect((await ask("/berths/1/calls/it's/energy")).body).toMatchObject({ ship: 'Bård', arrived: null })
    for (const evil of ["x'; drop table call; --", '%2e%2e%2f', '{kwh}', '$1', "' or 1=1 --"])
      expect([evil, (await ask(`/berths/1/calls/${encodeURIComponent(evil)}/energy`)).status]).toEqual([evil, 404])
    expect(await database.query('select from call')).toHaveLength(3)
  })
  it.each([
    [404, 404, '"status":404'],
    [204, 204, ''],
    [200, 200, 'null'],
  ])('says so with status %i where nothing is found', async (missing, status, text) => {
    const { ask } = await siteWith(({ book }) => [energy(book, { missing })])
    const answer = await ask('/berths/9/calls/x/energy')
    expect(answer.status).toBe(status)
    expect(answer.text).toContain(text)
  })
  it('takes parameters by their types from path, query, header and body, and tells all that is wrong at once', async () => {
    const { ask, post } = await siteWith(({ book }) => [
      {
        path: '/calls/{id}',
        method: 'POST',
        parameters: [
          { name: 'id', in: 'path', type: 'whole', least: 1, most: 9 },
          { name: 'unit', choices: ['kWh', 'MWh'], required: false },
          { name: 'X_Port', in: 'header', type: 'text', required: false, most: 5 },
          { name: 'since', in: 'body', type: 'time' },
          { name: 'deep', in: 'body', type: 'truth', required: false },
        ],
        does: {
          kind: 'rows',
          linkId: book,
          statement:
            'select {id + 1}::int as next, {unit}::text as unit, {X_Port}::text as port, {since}::timestamptz as since, {deep}::bool as deep',
        },
      },
    ])
    const headers = { 'content-type': 'application/json', 'x-port': 'quay' }
    const body = JSON.stringify({ since: '2026-11-27T08:00:00+01:00', deep: true })
    expect((await ask('/calls/7?unit=MWh', { method: 'POST', headers, body })).body).toEqual({
      ...{ next: 8, unit: 'MWh', port: 'quay', since: '2026-11-27T07:00:00.000Z', deep: true },
    })
    const wrong = await ask('/calls/10?unit=J', {
      method: 'POST',
      headers: { ...headers, 'x-port': 'too long' },
      body: '{"since":"soon","deep":"x"}',
    })
    expect(wrong.status).toBe(400)
    expect((wrong.body!.parameters as { name: string; problem: string }[]).map(({ name, problem }) => `${name}: ${problem}`)).toEqual([
      'id: it is above 9',
      'unit: it is none of kWh, MWh',
      'X_Port: it is above 5 characters',
      'since: it is no time, as in 2026-11-27T14:00:00Z',
      'deep: it is neither true nor false',
    ])
    expect((await ask('/calls/7?unit=kWh&unit=MWh', { method: 'POST', headers, body })).body!.detail).toContain('given more than once')
    expect((await post('/calls/7', {})).body!.detail).toContain('since (body): it is missing')
    expect((await ask('/calls/x%00', { method: 'POST', headers, body })).status).toBe(400)
  })
  it('tells whose fault it is where the database refuses, or is away', async () => {
    const { ask, engine, change, book } = await siteWith(({ book }) => [
      energy(book, {}, { statement: 'select * from nowhere where x = {berth} and y = {voyage}' }),
      energy(book, { path: '/ok/{berth}/{voyage}', answer: '{"a":"{nothing_like_it}"}' }),
    ])
    expect((await ask('/berths/2/calls/x/energy')).body).toMatchObject({ status: 502, type: 'urn:keen-conduit:fault:sql.statement' })
    expect((await ask('/ok/2/NF-118')).body).toMatchObject({
      status: 500,
      detail: expect.stringContaining('nothing is called “nothing_like_it”') as string,
    })
    const link = engine.wanted.things.link.get(book)!
    await change(async (editor) => editor.update('link', (await editor.row('link', book))!, { ...link, on: false }))
    expect((await ask('/ok/2/NF-118')).body).toMatchObject({ status: 502, type: 'urn:keen-conduit:fault:link.off' })
  })
  it('counts what it is asked', async () => {
    const { ask, engine, outletId } = await siteWith(({ book }) => [energy(book)])
    await ask('/berths/2/calls/NF-118/energy')
    await ask('/berths/9/calls/x/energy')
    const { details } = engine.outlet(outletId)!.status()
    expect(details).toMatchObject({ endpoints: [{ calls: 2, failed: 1, lastStatus: 404, path: '/berths/{berth}/calls/{voyage}/energy' }] })
  })
})

describe('an endpoint that shows tags', () => {
  it('finds them by its parameters, and passes on no value as good that is not', async () => {
    const site = await siteWith(() => [
      {
        path: '/berths/{berth}',
        does: { kind: 'tags', values: [{ name: 'kw', path: 'berth/{berth}/power' }, { name: 'ship', path: 'berth/{berth}/ship' }] }, // prettier-ignore
        answer: '{"berth":"{berth}","kw":"{kw}","quality":"{kw_quality}","unit":"{kw_unit}","ship":"{ship}"}',
      },
      { path: '/raw', does: { kind: 'tags', values: [{ name: 'kw', path: 'berth/1/power' }] } },
    ])
    await site.tags([
      memoryTag('berth/1/power', 71.5, 'float64', { unit: 'kW' }),
      memoryTag('berth/1/ship', 'Aurora', 'string'),
      memoryTag('berth/2/power', null),
      memoryTag('berth/2/ship', 'Bård', 'string'),
    ])
    expect((await site.ask('/berths/1')).body).toEqual({ berth: '1', kw: 71.5, quality: 'Good', unit: 'kW', ship: 'Aurora' })
    expect((await site.ask('/berths/2')).body).toMatchObject({ kw: null, quality: 'BadWaitingForInitialData', ship: 'Bård' })
    expect((await site.ask('/berths/3')).status).toBe(404)
    expect((await site.ask('/raw')).body).toMatchObject({ kw: { path: 'berth/1/power', value: 71.5, quality: 'Good' } })
  })
})

describe('an endpoint that hands in messages', () => {
  const handIn = (more: object = {}, does: object = {}) => ({
    ...{ method: 'POST', path: '/calls', does: { kind: 'message', topic: 'calls', ...does }, ...more },
  })
  const writing = (outletId: number, linkId: number, more: object = {}) =>
    bridgeDraft({
      when: [{ kind: 'client', outletId, filter: 'calls' }],
      take: [
        { name: 'id', kind: 'member', path: '$.id' },
        { name: 'kwh', kind: 'member', path: '$.kwh' },
      ],
      send: [
        {
          ...{ kind: 'table', number: 1, linkId, table: 'call', fields: [{ into: 'id', from: 'id' }, { into: 'kwh', from: 'kwh' }] }, // prettier-ignore
          ...more,
        },
      ],
    })

  it('is answered with 202 once it is kept, also while the receiver is away', async () => {
    const site = await siteWith(() => [handIn()])
    expect((await site.post('/calls', { id: 10, kwh: 5 })).body).toMatchObject({ status: 503, type: 'urn:keen-conduit:fault:serve.nobody' })
    const id = await site.bridge(writing(site.outletId, site.book))
    expect(await site.post('/calls', { id: 10, kwh: 5 })).toMatchObject({ status: 202, body: { outcome: 'kept' } })
    await until(() => site.status(id).destinations[0]!.delivered === 1)
    await site.database.query('alter table call rename to gone')
    expect((await site.post('/calls', { id: 11, kwh: 6 })).status).toBe(202)
    await until(() => site.status(id).destinations[0]!.kept === 1)
    await site.database.query('alter table gone rename to call')
    await until(() => site.status(id).destinations[0]!.delivered === 2)
    expect(await site.database.query('select id from call where id > 9 order by id')).toEqual([{ id: 10 }, { id: 11 }])
  })
  it('is told where nothing of it could be kept', async () => {
    const site = await siteWith(() => [handIn()])
    await site.bridge(writing(site.outletId, site.book))
    expect(await site.post('/calls', { id: 10 })).toMatchObject({
      status: 422,
      body: { detail: expect.stringContaining('$.kwh') as string },
    })
    expect((await site.ask('/calls', { method: 'POST', body: 'x' })).status).toBe(400)
  })
  it('waits for what becomes of it where that is wanted: arrived, refused, kept', async () => {
    const site = await siteWith(() => [
      handIn(
        { path: '/calls/{id}', parameters: [{ name: 'id', in: 'path', type: 'whole' }], answer: '{"call":"{id}","state":"{outcome}"}' },
        { answers: 'outcome', within: 2000 },
      ),
    ])
    const id = await site.bridge(writing(site.outletId, site.book))
    expect(await site.post('/calls/20', { kwh: 5 })).toMatchObject({ status: 200, body: { call: 20, state: 'delivered' } })
    expect(await site.post('/calls/20', { kwh: 5 })).toMatchObject({
      status: 502,
      body: { type: expect.stringContaining('sql') as string },
    })
    await site.database.query('alter table call rename to gone')
    expect(await site.post('/calls/21', { kwh: 5 })).toMatchObject({ status: 202, body: { call: 21, state: 'kept' } })
    await site.database.query('alter table gone rename to call')
    await until(() => site.status(id).destinations[0]!.kept === 0)
  })
})
