import { afterEach, expect, it } from 'vitest'
import { opcuaDecoder } from '#core/traffic/decoders/opcua'
import { quality } from '#core/tags/quality'
import type { Wire } from '#engine/wire/wire'
import { freePort } from '../../launcher/ports.mjs'
import { trusting } from '../support/opcuaSession'
import { openOutlet, securedScada } from '../support/outlet'
import { until } from '../support/until'

/** Messages that only both ends can read, as those who look at the traffic of one of them see them. */

const closing: (() => Promise<unknown>)[] = []
afterEach(async () => {
  for (const close of closing.splice(0).reverse()) await close()
})

const follow = ({ tap }: Wire) => {
  const from = tap.look(tap.end, 1).next
  /** @param asks whether it is the one who asks */
  return (asks: boolean) =>
    tap.look(from, 5000).frames.map(({ bytes, out }) => {
      const raw = Buffer.from(bytes, 'base64')
      return { ...opcuaDecoder(raw, out === asks).told, bytes: raw }
    })
}

it.each(['Sign', 'SignAndEncrypt'] as const)(
  'are shown in the clear at both ends, each once: %s',
  async (mode) => {
    const port = await freePort()
    const { session, table, wire, security, tag } = await openOutlet({ doors: [{ port, policies: ['Basic256Sha256'], modes: [mode] }] })
    closing.push(() => session.close())
    const limit = tag('limit', { unit: 'kW' })
    session.setTags([limit], [])
    table.set(limit.handle, 71.5, quality.Good, Date.now())
    await until(() => session.status().details!.doors.length > 0 && session.status().details!.doors.every(({ flow }) => flow !== 'late'))
    const client = await securedScada(security.own.der, port, closing, mode)
    security.trust.set([trusting(client.security.own.der)])
    const [theirs, ours] = [follow(client.wire), follow(wire)]
    const questions = await client.dial()
    expect(await questions.value('limit')).toBe(71.5)
    for (const frames of [theirs(true), ours(false)]) {
      const summaries = frames.map(({ summary }) => summary)
      // how the connection and the channel came to be is still shown as it travels
      expect(summaries).toContainEqual(expect.stringContaining('hello to opc.tcp'))
      expect(summaries).toContainEqual(expect.stringContaining('secured'))
      expect(frames.filter(({ call }) => call === 'open a secure channel').map(({ role }) => role)).toEqual(['request', 'answer'])
      expect(summaries.filter((summary) => summary.includes('part of something longer'))).toEqual([])
      const [asked, ...again] = frames.filter(
        ({ call, role, summary }) => call === 'read' && role === 'request' && summary.includes('limit'),
      )
      expect(again).toEqual([])
      const answers = frames.filter(({ role, key }) => role === 'answer' && key === asked!.key)
      expect(answers.map(({ summary }) => summary)).toEqual([expect.stringContaining('71.5')])
    }
  },
  30_000,
)

it('are not made while nobody looks', async () => {
  const port = await freePort()
  const { session, wire, security } = await openOutlet({ doors: [{ port, policies: ['Basic256Sha256'], modes: ['SignAndEncrypt'] }] })
  closing.push(() => session.close())
  await until(() => session.status().details!.doors.length > 0 && session.status().details!.doors.every(({ flow }) => flow !== 'late'))
  const client = await securedScada(security.own.der, port, closing)
  security.trust.set([trusting(client.security.own.der)])
  await client.dial()
  expect([wire.tap.end, client.wire.tap.end]).toEqual([0, 0])
})
