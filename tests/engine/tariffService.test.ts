import SwaggerParser from '@apidevtools/swagger-parser'
import { afterEach, beforeEach, describe, expect, it } from 'vitest'
import { quality } from '#core/tags/quality'
import { checkHttp } from '#engine/links/http/check'
import { Wire } from '#engine/wire/wire'
import { TariffService, tariffKey } from '#standins/http/tariffService'
import { closeAll, type Closing } from '../support/engineOn'
import { httpSettingsFor, openHttp } from '../support/httpSession'
import { testSecurity } from '../support/security'
import { until } from '../support/until'

/** The tariff service of the demo: what it says of itself, what it says, and what our link makes of its faults. */

const closing: Closing = []
let service: TariffService
let base: string
beforeEach(async () => {
  service = new TariffService()
  base = `http://127.0.0.1:${await service.listen(0)}`
})
afterEach(async () => {
  await closeAll(closing)
  await service.close()
})

const headers = { 'x-api-key': tariffKey }
const get = async (path: string) => fetch(`${base}${path}`, { headers })

const linked = (key = tariffKey) =>
  openHttp(
    closing,
    httpSettingsFor(`${base}/v1`, {
      signIn: { kind: 'key', name: 'X-API-Key', key: { plain: key } },
      operations: [{ name: 'tariff', path: '/tariffs/{zone}' }],
    }),
    [{ address: 'tariff?zone=north', type: 'float64', more: { options: { path: '$.now.price' } } }],
  )

describe('the tariff service', () => {
  it('describes itself in a document that is sound', async () => {
    const document = (await (await fetch(`${base}/openapi.json`)).json()) as never
    const read = await SwaggerParser.validate(document)
    expect(Object.keys(read.paths!)).toEqual(['/tariffs/{zone}', '/grid', '/calls'])
  })

  it('prices every quarter of an hour, the same for everybody who asks', async () => {
    const day = (await (await get('/v1/tariffs/north?day=2026-11-27')).json()) as { quarters: { from: string; price: number }[] }
    expect(day.quarters).toHaveLength(96)
    expect(day.quarters[1]!.from).toBe('2026-11-27T00:15:00.000Z')
    expect(day.quarters.map(({ price }) => price)).toEqual(
      ((await (await get('/v1/tariffs/north?day=2026-11-27')).json()) as typeof day).quarters.map(({ price }) => price),
    )
    const first = await get('/v1/tariffs/south?day=2026-11-27')
    const again = await fetch(first.url, { headers: { ...headers, 'if-none-match': first.headers.get('etag')! } })
    expect(again.status).toBe(304)
    expect((await get('/v1/tariffs/west')).status).toBe(404)
    expect((await fetch(`${base}/v1/grid`)).status).toBe(401)
  })

  it('takes a call of a ship once, however often it is handed in', async () => {
    const call = { method: 'POST', headers: { ...headers, 'idempotency-key': 'a1' }, body: JSON.stringify({ berth: 'berth/1', kwh: 40 }) }
    expect([(await fetch(`${base}/v1/calls`, call)).status, (await fetch(`${base}/v1/calls`, call)).status]).toEqual([201, 200])
    expect(service.handedIn).toMatchObject([{ berth: 'berth/1', kwh: 40 }])
    expect((await fetch(`${base}/v1/calls`, { ...call, body: '{}' })).status).toBe(422)
  })
})

describe('a link to it', () => {
  it('has the price of now', async () => {
    const link = await linked()
    await link.good()
    expect(link.value(0)).toBeGreaterThan(20)
  })

  it('is told that the key is not known', async () => {
    const link = await linked('another')
    await until(() => link.session.status().fault?.evidence.includes('401') || link.session.status().sentence.includes('401'))
    expect(link.quality(0)).not.toBe(quality.Good)
  })

  it.each(['busy', 'away', 'silence', 'cut off', 'other form', 'wrong key'] as const)('is not good while it is: %s', async (fault) => {
    const link = await linked()
    await link.good()
    service.setFault(fault, true)
    await until(() => link.quality(0) !== quality.Good)
    const told = [link.session.status().fault, link.session.origin(link.points[0]!.handle)?.fault]
    expect(told.filter(Boolean)).not.toEqual([])
  })
})

describe('the tariff service over TLS', () => {
  const steps = async (port: number, authority: string) => {
    const settings = httpSettingsFor(`https://127.0.0.1:${port}/v1`, {
      ...{ trust: { authority }, operations: [{ name: 'grid', path: '/grid' }] },
      signIn: { kind: 'key', name: 'X-API-Key', key: { plain: tariffKey } },
    })
    const found: Record<string, string> = {}
    const around = { wire: new Wire(), security: await testSecurity() }
    for await (const { step, flow, evidence } of checkHttp(settings, AbortSignal.timeout(5000), around)) found[step] = `${flow} ${evidence}`
    return found
  }
  it('shows a certificate that holds, and one that has ended where that fault is on', async () => {
    const { port, authority } = await service.listenSecured(0)
    expect(await steps(port, authority)).toMatchObject({
      tls: expect.stringContaining('certificate of Harrow Sound tariffs') as string,
      answer: expect.stringContaining('status 200') as string,
    })
    service.setFault('expired certificate', true)
    expect(await steps(port, authority)).toMatchObject({ tls: expect.stringMatching(/^broken .*(expired|self-signed)/) as string })
    service.setFault('expired certificate', false)
    expect(await steps(port, authority)).toMatchObject({ answer: expect.stringContaining('status 200') as string })
  })
})
