import { expect } from 'vitest'
import type { Answer } from './describedCalls'
import { until } from './until'

type Call = (method: string, path: string, body?: unknown) => Promise<Answer>

/** What only values know that go by priorities, once. */
export const callServices = async (call: Call, ventilationPort: number) => {
  const settings = {
    localAddress: '127.0.0.1',
    port: 0,
    broadcast: '127.0.0.9',
    devices: [{ instance: 4001, host: '127.0.0.1', port: ventilationPort }],
  }
  const { id: linkId } = (await call('POST', '/links', { name: 'Services', kind: 'bacnet-ip', settings })).body as unknown as { id: number }
  const point = {
    path: 'services/set_point',
    type: 'float32',
    access: 'readwrite',
    source: { kind: 'point', linkId, address: '4001:AV1', options: { priority: 9 } },
  }
  const [tag] = (await call('POST', '/tags', { tags: [point] })).body as unknown as { id: number }[]
  const held = async () => (await call('GET', `/tags/${tag!.id}/priorities`)).body as { ours?: number; levels?: { text: string | null }[] }
  await until(async () => (await held()).ours === 9)
  expect((await call('PUT', `/tags/${tag!.id}/value`, { value: 24 })).body).toEqual({ readBack: 24 })
  expect((await held()).levels![8]!.text).toBe('24')
  expect((await call('DELETE', `/tags/${tag!.id}/value`)).body).toEqual({ readBack: 21.5 })
  await call('DELETE', `/links/${linkId}?tags=remove`)
}
