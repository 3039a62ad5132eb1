import { connect, type Socket } from 'node:net'
import { AttributeIds, ClientMonitoredItem, TimestampsToReturn } from 'node-opcua'
import { afterEach, describe, expect, it } from 'vitest'
import { quality } from '#core/tags/quality'
import { tagNamespace } from '#engine/outlets/opcua/addressSpace'
import { Guests } from '#engine/outlets/opcua/guests'
import { hashPassword } from '#security/passwords'
import { Seal } from '#security/seal'
import { opcuaServerSettings } from '#shared/outlets/opcuaServer'
import { freePort } from '../../launcher/ports.mjs'
import { closeAll, type Closing } from '../support/engineOn'
import { openOutlet, plainClient, type Client } from '../support/outlet'
import { until } from '../support/until'

/** Nobody takes the share of the others. */

const closing: Closing = []
afterEach(() => closeAll(closing))

const serve = async (limits: object) => {
  const port = await freePort()
  const outlet = await openOutlet({ doors: [{ port }], limits })
  closing.push(() => outlet.session.close())
  await until(() => outlet.session.status().flow === 'flowing')
  const dial = async () => {
    const client = await plainClient(port)
    closing.push(() => client.close())
    return client
  }
  return { ...outlet, port, dial }
}

/** A connection that says nothing; what it is told, as text. */
const mute = (port: number) =>
  new Promise<{ socket: Socket; heard: () => Buffer }>((resolve, reject) => {
    let heard = Buffer.alloc(0)
    const socket = connect(port, '127.0.0.1')
    closing.push(() => Promise.resolve(socket.destroy()))
    socket.on('data', (part) => (heard = Buffer.concat([heard, part])))
    socket.once('error', reject).once('connect', () => resolve({ socket, heard: () => heard }))
  })

const subscribe = async (client: Client, count: number, queueSize = 1) => {
  const subscription = await client.session.createSubscription2({
    requestedPublishingInterval: 100,
    requestedMaxKeepAliveCount: 10,
    requestedLifetimeCount: 1000,
    maxNotificationsPerPublish: 0,
    publishingEnabled: true,
    priority: 1,
  })
  const codes: string[] = []
  for (let i = 0; i < count; i++) {
    const item = ClientMonitoredItem.create(
      subscription,
      { nodeId: client.node(tagNamespace, 'power'), attributeId: AttributeIds.Value },
      { samplingInterval: 100, queueSize, discardOldest: true },
      TimestampsToReturn.Both,
    )
    codes.push(
      await new Promise((resolve) => {
        item.once('initialized', () => resolve(item.statusCode.name))
        item.once('err', (message) => resolve(message))
      }),
    )
  }
  return codes
}

describe('connections', () => {
  it('from one address are limited, and told why; others still come in', async () => {
    const { port, journal, session } = await serve({ perAddress: 3 })
    const held = await Promise.all([mute(port), mute(port), mute(port)])
    const refused = await mute(port)
    await until(() => refused.heard().length > 16)
    expect(refused.heard().subarray(0, 4).toString()).toBe('ERRF')
    expect(refused.heard().readUInt32LE(8)).toBe(0x807d0000)
    expect(journal.entries.filter(({ text }) => text.includes('as many as one address may'))).toHaveLength(1)
    held[0]!.socket.destroy()
    await until(async () =>
      plainClient(port).then(
        (client) => client.close().then(() => true),
        () => false,
      ),
    )
    expect(session.status().flow).toBe('flowing')
  })

  it('that never signed in give way to those who do, when a door is full', async () => {
    const { port, dial, journal } = await serve({ connections: 3, perAddress: 100 })
    await Promise.all([mute(port), mute(port), mute(port)])
    const client = await dial()
    expect((await client.session.read({ nodeId: 'i=2259', attributeId: AttributeIds.Value })).statusCode.name).toBe('Good')
    expect(journal.entries.some(({ text }) => text.includes('never signed in gives way'))).toBe(true)
  })
})

describe('items', () => {
  const withPower = async (limits: object) => {
    const outlet = await serve(limits)
    const power = outlet.tag('power')
    outlet.session.setTags([power], [])
    outlet.table.set(power.handle, 1, quality.Good, Date.now())
    await until(() => outlet.session.status().sentence.startsWith('Open'))
    return outlet
  }

  it('are limited by session', async () => {
    const { dial, session, journal } = await withPower({ itemsPerSession: 3 })
    const codes = await subscribe(await dial(), 5)
    expect(codes.filter((code) => code === 'Good')).toHaveLength(3)
    expect(codes.at(-1)).toMatch(/BadTooManyMonitoredItems/)
    expect(await subscribe(await dial(), 2)).toEqual(['Good', 'Good'])
    expect(session.status().items).toBe(5)
    expect(journal.entries.filter(({ text }) => text.includes('as many as one session may'))).toHaveLength(1)
  })

  it('are limited by guest, and in all', async () => {
    const { dial } = await withPower({ itemsPerGuest: 4, items: 6 })
    expect(await subscribe(await dial(), 3)).toEqual(['Good', 'Good', 'Good'])
    const second = await subscribe(await dial(), 3)
    expect(second.filter((code) => code === 'Good')).toHaveLength(1)
  })
})

describe('guests', () => {
  const guests = async () => {
    const key = { kind: 'password', password: { hashed: await hashPassword('of the panel') } }
    const { users, anonymous } = opcuaServerSettings.parse({ users: [{ name: 'panel', key }] })
    const told: string[] = []
    return { guests: new Guests({ users, anonymous }, new Seal('a secret that is only for tests'), (problem) => told.push(problem)), told }
  }

  it('come in by what only their hash is kept of, and are not guessed from one address for all', async () => {
    const made = await guests()
    expect(await made.guests.isUser('panel', 'of the panel', '10.0.0.1')).toBe(true)
    expect(await made.guests.isUser('nobody', 'of the panel', '10.0.0.1')).toBe(false)
    const wrong = await Promise.all(Array.from({ length: 50 }, (_, i) => made.guests.isUser('panel', `guess ${i}`, '10.0.0.66')))
    expect(wrong).not.toContain(true)
    // told once, and not for each of them
    expect(made.told).toEqual([expect.stringContaining('10.0.0.66 are wrong again and again')])
    expect(await made.guests.isUser('panel', 'of the panel', '10.0.0.66')).toBe(false)
    expect(await made.guests.isUser('panel', 'of the panel', '10.0.0.1')).toBe(true)
  })
})
