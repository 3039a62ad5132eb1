import { callChecks } from './checkCalls'
import { expect } from 'vitest'
import type { Answer } from './describedCalls'
import { callHistory } from './historyCalls'

type Call = (method: string, path: string, body?: unknown) => Promise<Answer>

/** Every operation of the bench, of watch lists, of history and of equipment, once. */
export const callDesk = async (call: Call, { linkId, tagId, point }: { linkId: number; tagId: number; point: object }) => {
  const [entry] = (await call('POST', '/bench', { points: [{ linkId, ...point }] })).body as unknown as { id: number }[]
  const at = `/bench/${entry!.id}`
  await call('GET', '/bench?sort=address')
  await call('PUT', at, { linkId, ...point, interval: 500 })
  expect((await call('POST', `${at}/read`)).body).toMatchObject({ entry: { last: { did: 'read', ok: true } }, origin: { fault: null } })
  await call('POST', '/bench/now', { ids: [entry!.id] })
  expect((await call('PUT', `${at}/value`, { value: 120 })).body).toMatchObject({
    readBack: 120,
    entry: { last: { did: 'written', text: '120' } },
  })
  await call('POST', '/bench/block', { linkId, address: '11:holding/40', count: 6 })
  expect((await call('POST', '/bench/remove', { ids: [entry!.id] })).body).toEqual({ removed: 1 })
  expect((await call('POST', `${at}/read`)).status).toBe(404)

  expect((await call('GET', `/links/${linkId}/programs`)).body).toEqual([])

  const list = { name: 'Berth 2', tags: [tagId, 999_999, tagId] }
  const made = (await call('POST', '/watch-lists', list)).body as unknown as { id: number }
  const listAt = `/watch-lists/${made.id}`
  expect(made).toMatchObject({ tags: [tagId], mine: true, shared: false })
  expect((await call('POST', '/watch-lists', { name: 'berth 2' })).body).toMatchObject({
    fault: { what: 'There is a watch list called “berth 2” already.' },
  })
  await call('GET', '/watch-lists')
  expect((await call('GET', listAt)).body.watched).toMatchObject([{ id: tagId }])
  await call('PUT', listAt, { name: 'Berth 3', shared: true, tags: [tagId] })
  expect((await call('POST', `${listAt}/tags`, { remove: [tagId] })).body).toMatchObject({ name: 'Berth 3', tags: [] })
  await call('DELETE', listAt)
  expect((await call('GET', listAt)).status).toBe(404)
  await call('POST', '/tags/trends', { ids: [tagId] })
  const { path } = (await call('GET', `/tags/${tagId}`)).body as unknown as { path: string }
  await callHistory(call, { tagId, path })
  await callChecks(call)
}
