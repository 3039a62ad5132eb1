import { afterEach, describe, expect, it } from 'vitest'
import { freePort } from '../../launcher/ports.mjs'
import { closeAll, type Closing } from '../support/engineOn'
import { trusting } from '../support/opcuaSession'
import { openOutlet, securedScada } from '../support/outlet'
import { relayTo } from '../support/relay'
import { Reader, Writer } from '../support/ua/bytes'
import { WireClient } from '../support/ua/client'
import { status } from '../support/ua/status'
import { until } from '../support/until'

/** What an outlet answers to requests that cannot be answered, as a client from bytes sees it. */

const serviceFault = 'i=397'
const readRequest = 'i=631'

const closing: Closing = []
afterEach(() => closeAll(closing))

const door = async () => {
  const port = await freePort()
  const outlet = await openOutlet({ doors: [{ port }] })
  closing.push(() => outlet.session.close())
  await until(() => outlet.session.status().flow === 'flowing')
  const client = await WireClient.open('127.0.0.1', port)
  closing.push(() => Promise.resolve(client.close()))
  return client
}

describe('an outlet', () => {
  it.each([
    ['a service that there is not', 'i=40999', Buffer.alloc(0)],
    ['a service of somebody else', 'ns=3;i=77', Buffer.alloc(12)],
    ['a structure that is no service', 'i=886', Buffer.alloc(0)],
    ['a service that it does not offer', 'i=479', new Writer().uint32(7).done()],
  ])('answers %s with BadServiceUnsupported, and goes on', async (_, type, rest) => {
    const client = await door()
    expect(await client.ask(type, rest)).toMatchObject({ type: serviceFault, result: status.BadServiceUnsupported, texts: [] })
    expect(await client.ask('i=428', new Writer().string(null).uint32(0).uint32(0).done())).toMatchObject({ type: 'i=431', result: 0 })
  })

  it.each([
    ['cut off in the middle', new Writer().double(0).uint32(3).uint32(4).bytes(1).done()],
    ['with more elements than it has bytes', new Writer().double(0).uint32(3).uint32(0x7fffffff).done()],
    ['of noise', Buffer.from(Array.from({ length: 64 }, (_, i) => (i * 97 + 13) & 0xff))],
  ])('answers a request %s with BadDecodingError, and goes on', async (_, rest) => {
    const client = await door()
    expect(await client.ask(readRequest, rest)).toMatchObject({ type: serviceFault, result: status.BadDecodingError, texts: [] })
    expect(await client.ask('i=428', new Writer().string(null).uint32(0).uint32(0).done())).toMatchObject({ type: 'i=431', result: 0 })
  })
})

describe('a wrong signature', () => {
  it('ends the connection as a failed check of security, without a word of the inside', async () => {
    const port = await freePort()
    const outlet = await openOutlet({ doors: [{ port, policies: ['Basic256Sha256'], modes: ['Sign'] }] })
    closing.push(() => outlet.session.close())
    await until(() => outlet.session.status().flow === 'flowing')
    const relay = await relayTo(port)
    closing.push(() => relay.close())
    const client = await securedScada(outlet.security.own.der, relay.port, closing, 'Sign')
    outlet.security.trust.set([trusting(client.security.own.der)])
    const { session } = await client.dial()
    relay.spoilNext()
    void session.read({ nodeId: 'i=2259', attributeId: 13 }).catch(() => {})
    await until(() => relay.heard().toString('latin1', 0, 4) === 'ERRF')
    const message = new Reader(relay.heard().subarray(8))
    expect(message.uint32()).toBe(status.BadSecurityChecksFailed)
    expect(message.string()).not.toMatch(/packet|internal|decrypt|derived/i)
  })
})
