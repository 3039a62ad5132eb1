import { randomUUID } from 'node:crypto'
import { expect } from 'vitest'
import type { CheckPoint, CheckSheet } from '#shared/checks'
import type { describedCalls } from './describedCalls'
import { until } from './until'

type Call = Awaited<ReturnType<typeof describedCalls>>['call']

/** Points of memory tags are checked one by one: from the sheet to the page that is printed. */
export const callChecks = async (call: Call) => {
  const memory = (path: string) => ({ path, source: { kind: 'memory', start: 5 }, type: 'int32', access: 'readwrite', unit: 'A' })
  const tags = (await call('POST', '/tags', { tags: [memory('checked/a'), memory('checked/b'), memory('checked/c')] })).body as unknown as {
    id: number
    revision: number
  }[]
  const [a, b, c] = tags as [(typeof tags)[0], (typeof tags)[0], (typeof tags)[0]]
  const refusalOf = async (...args: Parameters<Call>) => ((await call(...args)).body as { fault?: { code: string } }).fault?.code
  expect(await refusalOf('POST', '/check-sheets', { name: 'Nothing', below: ['nowhere'] })).toBe('checks.no-points')
  expect(await refusalOf('POST', '/check-sheets', { name: 'Nothing' })).toBe('checks.no-points')
  const made = await call('POST', '/check-sheets', { name: 'Panel of berth 1', against: 'Panel', below: ['checked/'] })
  const sheet = made.body as unknown as CheckSheet
  expect(sheet).toMatchObject({ points: 3, closedAt: null, counts: { unchecked: 3, good: 0 } })
  expect(await refusalOf('POST', '/check-sheets', { name: 'panel of berth 1', below: ['checked'] })).toBe('entry.taken')
  expect(((await call('GET', '/check-sheets?find=panel')).body as { total: number }).total).toBe(1)
  const at = `/check-sheets/${sheet.id}`

  const key = randomUUID()
  const check = (tag: number, more: object = {}) => ({
    ...{ key: randomUUID(), tag, at: Date.now() - 60_000, way: 'set', expected: '5', seen: '5', outcome: 'good' },
    ...more,
  })
  const evidence = { at: Date.now(), value: '5', quality: 0, stages: [{ title: 'Memory', text: '5', detail: 'of this site' }] }
  const checks = [check(a.id, { key, evidence }), check(b.id, { outcome: 'bad', remark: 'shows 6' }), check(999_999)]
  const first = (await call('POST', `${at}/checks`, { checks })).body as { taken: string[]; refused: { fault: { code: string } }[] }
  expect([first.taken.length, first.refused.map(({ fault }) => fault.code)]).toEqual([2, ['checks.not-on']])
  // sent once more, after a connection that broke
  await call('POST', `${at}/checks`, { checks: [check(a.id, { key, outcome: 'bad' })] })
  expect(((await call('GET', `${at}/checks?tag=${a.id}`)).body as unknown as unknown[]).length).toBe(1)
  const points = async () => ((await call('GET', `${at}/points`)).body as unknown as { items: CheckPoint[] }).items
  const states = async () => (await points()).map(({ state }) => state)
  expect(await states()).toEqual(['good', 'bad', 'unchecked'])
  expect((await points())[0]!.last).toMatchObject({ who: 'admin', isAttached: true })
  expect((await call('GET', `${at}/checks?tag=${a.id}`)).body).toMatchObject([{ evidence: { ...evidence, frames: [] } }])
  const company = (await call('PUT', `${at}/place`, { tag: a.id })).body as { last: number; points: number; people: unknown[] }
  expect(company).toMatchObject({ points: 3, isClosed: false, people: [] })
  expect(((await call('GET', `${at}/points?after=${company.last - 1}`)).body as { total: number }).total).toBe(1)
  expect((await call('POST', `${at}/evidence`, { tag: a.id })).body).toMatchObject({ value: '5', quality: 0, frames: [] })
  expect(await refusalOf('POST', `${at}/evidence`, { tag: 999_999 })).toBe('checks.not-on')
  expect(((await call('GET', `${at}/points?state=bad`)).body as { total: number }).total).toBe(1)

  // what is changed afterwards has to be checked again, and why
  const tag = (await call('GET', `/tags/${a.id}`)).body as Record<string, unknown>
  await call('PUT', `/tags/${a.id}`, { revision: a.revision, tag: { ...tag, unit: 'kA' } })
  expect((await points())[0]).toMatchObject({ state: 'again', changed: [{ field: 'unit', before: 'A', after: 'kA' }] })
  await call('PUT', at, { name: 'Panel of berth 1', note: 'with ida', add: ['checked/a'], remove: [c.id] })
  await call('POST', '/tags/remove', { ids: [b.id] })
  expect(await states()).toEqual(['again', 'gone'])

  const closed = (await call('POST', `${at}/close`)).body as unknown as CheckSheet
  expect(closed).toMatchObject({ closedBy: 'admin', digest: expect.stringMatching(/^[0-9a-f]{64}$/) as string })
  expect(await refusalOf('POST', `${at}/checks`, { checks: [check(a.id)] })).toBe('checks.closed')
  expect(await refusalOf('POST', `${at}/close`)).toBe('checks.closed')
  const whole = (await call('GET', at)).body as unknown as CheckSheet & { digestNow: string }
  expect(whole.digestNow).toBe(closed.digest)
  const page = String((await call('GET', `${at}/report.html`)).body)
  expect(page).toContain(closed.digest!)
  expect(page).toContain('unit: A → kA')
  expect(String((await call('GET', `${at}/report.pdf`)).body)).toMatch(/^%PDF-/)
  const next = (await call('POST', '/check-sheets', { name: 'Once more', from: sheet.id })).body as unknown as CheckSheet
  expect(next.points).toBe(1)
  for (const one of [next.id, sheet.id]) await call('DELETE', `/check-sheets/${one}`)
  await call('POST', '/tags/remove', { ids: [a.id, c.id] })
  await until(async () => ((await call('GET', '/tags?find=checked/')).body as { total: number }).total === 0)
}
