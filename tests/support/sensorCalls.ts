import { expect } from 'vitest'
import type { SensorPortFound } from '#shared/links/sensorPorts'
import { tension } from '../../standins/iolink/descriptions/tension'
import type { Answer } from './describedCalls'
import { until } from './until'

type Call = (method: string, path: string, body?: unknown) => Promise<Answer>

/** What only masters of smart sensors know, and the catalogue of descriptions, once. */
export const callSensors = async (call: Call, sensorPort: number) => {
  const settings = { base: `http://127.0.0.1:${sensorPort}/iolink/v1` }
  const { id: linkId } = (await call('POST', '/links', { name: 'Sensors', kind: 'iolink', settings })).body as unknown as { id: number }
  expect((await call('POST', '/device-descriptions?name=none.xml', '<a/>')).body.fault?.code).toBe('iolink.description')
  const loaded = (await call('POST', '/device-descriptions?name=tension.xml', tension)).body as unknown as { loaded: { id: number }[] }
  const at = `/device-descriptions/${loaded.loaded[0]!.id}`
  expect((await call('GET', at)).body.document).toBe(tension)
  const ports = async () => (await call('GET', `/links/${linkId}/ports`)).body as unknown as SensorPortFound[]
  await until(async () => (await ports().catch(() => []))[0]?.described?.named === 'Cable tension sensor')
  const taken = await call('POST', `/links/${linkId}/ports/1/take`, { folder: 'sensors/tension' })
  expect(taken.body.made).toHaveLength(5)
  expect((await call('POST', `/links/${linkId}/ports/4/take`, {})).body.fault?.code).toBe('iolink.empty')
  const [listed] = (await call('GET', '/device-descriptions')).body.items as { revision: number }[]
  expect((await call('PUT', at, { revision: listed!.revision, language: 'de' })).body).toMatchObject({ name: 'Seilzugsensor 2641/1051' })
  await call('DELETE', at)
  await call('DELETE', `/links/${linkId}?tags=remove`)
}
