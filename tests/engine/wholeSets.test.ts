import { AttributeIds, DataType, type ClientSubscription, type DataChangeNotification, type NotificationMessage } from 'node-opcua'
import { afterEach, describe, expect, it } from 'vitest'
import { freePort } from '../../launcher/ports.mjs'
import { outletContract } from '#shared/outlets/outlet'
import { closeAll, type Closing } from '../support/engineOn'
import { plainClient, type Client } from '../support/outlet'
import { recordSite } from '../support/recordSites'
import { until } from '../support/until'

/** What an OPC UA client sees of a set that changes all the time: it is never half of one row and half of another. */

const closing: Closing = []
afterEach(() => closeAll(closing))

const columns = Array.from({ length: 12 }, (_, i) => `part_${i + 1}`)
const rows = 50

const site = async () => {
  const started = await recordSite(closing)
  const { query, set, settled, engine, change, write } = started
  await query(`create table recipe (number integer primary key, ${columns.map((name) => `${name} integer`).join(', ')});
    insert into recipe select n, ${columns.map(() => 'n').join(', ')} from generate_series(1, ${rows}) n`)
  const how = { kind: 'cursor', from: { kind: 'table', table: 'recipe' }, columns, key: 'number', again: { every: null } }
  const id = await set({ how })
  await settled(id, columns.length + 13)
  const port = await freePort()
  await change((editor) =>
    editor.insert('outlet', [
      outletContract.parse({
        name: 'SCADA',
        kind: 'opcua-server',
        settings: { doors: [{ port, policies: ['None'], anonymous: true }], anonymous: [{ folder: '', may: 'write' }] },
      }),
    ]),
  )
  await until(() => engine.status().outlets[0]?.flow === 'flowing')
  const client = await plainClient(port)
  closing.push(() => client.close())
  /** Goes round and round through all rows. */
  const goRound = async (moves: number) => {
    for (let n = 0; n < moves; n++) await write('book/move/number', (n % rows) + 1)
  }
  return { ...started, client, goRound }
}

const tagsUri = 'urn:keen-conduit:tags'
const nodesOf = (client: Client) => [...columns, 'change'].map((name) => client.node(tagsUri, `book/${name}`))

const subscribed = async (
  client: Client,
  nodes: readonly string[],
  samplingInterval: number,
): Promise<{ subscription: ClientSubscription; sets: number[][]; last: () => number }> => {
  const subscription = await client.session.createSubscription2({
    ...{ requestedPublishingInterval: 20, requestedMaxKeepAliveCount: 50, requestedLifetimeCount: 1000 },
    ...{ maxNotificationsPerPublish: 0, publishingEnabled: true, priority: 1 },
  })
  const now = new Map<number, number>()
  const sets: number[][] = []
  subscription.on('received_notifications', (message: NotificationMessage) => {
    for (const part of (message.notificationData ?? []) as DataChangeNotification[])
      for (const { clientHandle, value } of part.monitoredItems ?? []) now.set(clientHandle, Number(value.value.value))
    sets.push([...now.values()])
  })
  // one after the other, as a client does that adds what an operator opens
  for (const nodeId of nodes) {
    await subscription.monitor({ nodeId, attributeId: AttributeIds.Value }, { samplingInterval, discardOldest: true, queueSize: 1 }, 2)
    await new Promise((resolve) => setTimeout(resolve, 7))
  }
  await until(() => now.size === nodes.length)
  sets.length = 0
  return { subscription, sets, last: () => sets.at(-1)?.[0] ?? 0 }
}

const halves = (sets: readonly number[][]) => sets.filter((values) => values.slice(0, columns.length).some((value) => value !== values[0]))

describe('a set seen through OPC UA', () => {
  it.each([
    [0, 2000],
    [20, 10_000],
    [100, 2000],
  ])(
    'is whole in each message of a subscription that samples every %i ms, through %i changes',
    async (interval, moves) => {
      const { client, goRound } = await site()
      const { sets, last } = await subscribed(client, nodesOf(client), interval)
      await goRound(moves)
      await until(() => last() === rows)
      // the quicker the moves are, the fewer messages a slow interval leaves room for
      expect(sets.length).toBeGreaterThan(5)
      expect(halves(sets)).toEqual([])
    },
    120_000,
  )

  it('is whole whenever all of it is read', async () => {
    const { client, goRound } = await site()
    const moving = goRound(2000)
    let isMoving = true
    void moving.then(() => (isMoving = false))
    const nodes = nodesOf(client).map((nodeId) => ({ nodeId, attributeId: AttributeIds.Value }))
    const sets: number[][] = []
    while (isMoving) sets.push((await client.session.read(nodes)).map(({ value }) => Number(value.value)))
    await moving
    expect(new Set(sets.map(([first]) => first)).size).toBeGreaterThan(10)
    expect(halves(sets)).toEqual([])
  }, 60_000)

  it('is moved by the client that sees it', async () => {
    const { client } = await site()
    const move = { nodeId: client.node(tagsUri, 'book/move/next'), attributeId: AttributeIds.Value }
    const status = await client.session.write({ ...move, value: { value: { dataType: DataType.Boolean, value: true } } })
    expect(status.name).toBe('Good')
    expect(await client.value('book/part_7')).toBe(2)
  })
})
