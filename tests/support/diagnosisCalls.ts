import { expect } from 'vitest'
import type { PathRecord } from '#shared/diagnosis'
import type { describedCalls } from './describedCalls'
import { until } from './until'

type Call = Awaited<ReturnType<typeof describedCalls>>['call']

/** What is asked to find a fault. */
export const callDiagnosis = async (call: Call, link: number) => {
  await call('POST', `/links/${link}/check`)
  const records = async () => (await call('GET', `/links/${link}/checks`)).body as unknown as PathRecord[]
  await until(async () => (await records()).some(({ why }) => why === 'asked'))
  const source = { kind: 'memory', start: 1 }
  const [tag] = (await call('POST', '/tags', { tags: [{ path: 'described/way', source, type: 'int32' }] })).body as unknown as {
    id: number
  }[]
  await until(async () => (await call('POST', `/tags/${tag!.id}/check`)).status === 200)
  await call('GET', `/tags/${tag!.id}/checks`)
  await call('POST', '/tags/remove', { ids: [tag!.id] })
  await call('GET', `/links/${link}/traffic`)
  await call('GET', `/links/${link}/unclaimed`)
  expect(String((await call('GET', '/site/handover.zip')).body)).toMatch(/^PK/)
}
