import { expect } from 'vitest'
import mqtt from 'mqtt'
import type { PathRecord } from '#shared/diagnosis'
import type { EngineStatus } from '#shared/status'
import type { UpkeepState } from '#shared/upkeep'
import type { describedCalls } from './describedCalls'
import { until } from './until'

type Call = Awaited<ReturnType<typeof describedCalls>>['call']

/** What is asked to find a fault. */
export const callDiagnosis = async (call: Call, link: number) => {
  expect((await call('POST', `/links/${link}/try-now`, { unit: null })).body).toEqual({ tried: true })
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
  await callJournal(call)
  const { links } = (await call('GET', '/statistics')).body as unknown as { links: { id: number; whole: { requests: number } }[] }
  expect(links.find(({ id }) => id === link)!.whole.requests).toBeGreaterThan(0)
  const { disks, endings } = (await call('GET', '/upkeep')).body as unknown as UpkeepState
  expect(disks[0]!.freeBytes).toBeGreaterThan(0)
  expect(endings.map(({ kind }) => kind)).toContain('own certificate')
  expect(String((await call('GET', '/metrics')).body)).toMatch(
    /conduit_link_requests_total\{link="[^"]+",kind="[^"]+",part=""\} \d+\n[\s\S]*conduit_site_disk_bytes\{disk="[^"]+",which="free"\} \d+\n# EOF\n$/,
  )
  const { minutes } = (await call('GET', `/statistics/course?of=link&id=${link}`)).body as unknown as { minutes: { requests: number }[] }
  expect(minutes.reduce((sum, { requests }) => sum + requests, 0)).toBeGreaterThan(0)
  expect((await call('POST', '/statistics/reset', { only: { of: 'link', id: link } })).status).toBe(200)
}

const callJournal = async (call: Call) => {
  const { bars, width } = (await call('GET', '/journal/picture?find=switched')).body as unknown as {
    bars: { note: number }[]
    width: number
  }
  expect(bars.reduce((sum, { note }) => sum + note, 0)).toBeGreaterThan(0)
  expect(width).toBeGreaterThan(0)
  const { total } = (await call('GET', '/journal?find=switched%20on&severity=note')).body as unknown as { total: number }
  const text = String((await call('GET', '/journal.txt?find=switched%20on&severity=note')).body)
  expect(text.trim().split('\n')).toHaveLength(total)
  expect(String((await call('GET', '/journal.csv?find=switched%20on')).body)).toContain('at,last at,times,severity')
  await call('GET', '/journal.jsonl?find=switched%20on')
  const { keeping } = (await call('GET', '/journal/keeping')).body as unknown as { keeping: object }
  expect((await call('PUT', '/journal/keeping', { ...keeping, where: 'nowhere' })).status).toBe(422)
  expect((await call('PUT', '/journal/keeping', { ...keeping, days: 30 })).body).toMatchObject({ days: 30, where: 'database' })
  const nobody = { host: '127.0.0.1', port: 1, over: 'tcp' }
  expect((await call('POST', '/journal/forwarding/try', nobody)).body).toMatchObject({ fault: { code: 'tcp.refused' } })
  // over UDP nobody tells whether somebody listens
  expect((await call('POST', '/journal/forwarding/try', { host: '127.0.0.1', port: 9, over: 'udp' })).body).toEqual({ sent: true })
  // whoever took the pack along is on record
  const deeds = (await call('GET', '/deeds?kind=took%20along')).body as unknown as { items: object[] }
  expect(deeds.items).toContainEqual(expect.objectContaining({ what: 'A handover pack', ok: true }))
}

/** What clients of a broker asked. */
export const callAboutCalls = async (call: Call, outlet: number) => {
  await until(async () => (await call('GET', `/outlets/${outlet}/unclaimed`)).status === 200)
  const addressNow = async () => {
    const { outlets } = (await call('GET', '/status')).body as unknown as EngineStatus
    const found = outlets.find(({ id }) => id === outlet)
    return found?.flow === 'flowing' ? found.addresses[0] : undefined
  }
  await until(async () => (await addressNow()) !== undefined)
  const client = await mqtt.connectAsync((await addressNow())!, { clientId: 'port-office' })
  expect((await call('GET', `/outlets/${outlet}/calls?limit=5`)).body).toMatchObject({
    calls: [{ client: { name: 'port-office' } }],
    last: 1,
  })
  expect((await call('GET', `/outlets/${outlet}/calls/totals`)).body).toMatchObject({ clients: [{ calls: 1 }], vain: [], vainOthers: 0 })
  for (const file of ['calls.txt', 'calls.csv', 'calls.jsonl']) expect((await call('GET', `/outlets/${outlet}/${file}`)).status).toBe(200)
  expect((await call('POST', `/outlets/${outlet}/calls/reset`, {})).status).toBe(200)
  await client.endAsync(true)
}
