import { AttributeIds } from 'node-opcua'
import { afterEach, expect, it } from 'vitest'
import { healthNamespace, placeNamespace } from '#core/opcua/ourNamespaces'
import { changeConfiguration } from '#db/configuration'
import { tagNamespace } from '#engine/outlets/opcua/addressSpace'
import { requestNamespace } from '#engine/outlets/opcua/requested'
import { linkContract } from '#shared/links/link'
import { outletContract } from '#shared/outlets/outlet'
import { freePort } from '../../launcher/ports.mjs'
import { closeAll, type Closing } from '../support/engineOn'
import { plainClient } from '../support/outlet'
import { copyWith } from '../support/pairing'
import { until } from '../support/until'

/** What lies behind the links of a copy is browsed, read and written by its clients, though no tag covers it. */

const closing: Closing = []
afterEach(() => closeAll(closing))

const outletAt = (port: number, more: object = {}) =>
  outletContract.parse({
    name: `At ${port}`,
    kind: 'opcua-server',
    settings: { doors: [{ port }], anonymous: [{ folder: '', may: 'write' }], ...more },
  })

/** A device that speaks OPC UA, a copy that has a link to it and no tag, and a client of that copy. */
const behind = async (more: object) => {
  const [device, copy] = await Promise.all([copyWith(closing, { 'press/force': 12, 'press/limit': 40 }), copyWith(closing)])
  const [devicePort, port] = [await freePort(), await freePort()]
  await changeConfiguration(device.database.db, 'test', 'made', (editor) => editor.insert('outlet', [outletAt(devicePort)]))
  await changeConfiguration(copy.database.db, 'test', 'made', async (editor) => {
    const patience = { connect: 1000, answer: 3000, retryFirst: 100, retryMost: 400 }
    await editor.insert('link', [
      linkContract.parse({ name: 'Press', kind: 'opcua', settings: { address: `127.0.0.1:${devicePort}`, patience } }),
    ])
    await editor.insert('outlet', [outletAt(port, more)])
  })
  await until(() => copy.engine.status().links[0]?.flow === 'flowing' && copy.engine.status().outlets[0]?.flow === 'flowing')
  const client = await plainClient(port)
  closing.push(() => client.close())
  const points = client.node(placeNamespace, 'Press||')
  const onRequest = () => {
    const { details } = copy.engine.status().outlets[0]!
    return details?.kind === 'opcua-server' ? details.onRequest.points : []
  }
  return { device, client, points, onRequest }
}

it('a client looks behind a link, reads what it finds and writes it; only what is read is asked for', async () => {
  const { device, client, points, onRequest } = await behind({ onRequest: { on: true, mayWrite: true } })
  expect(await client.below(client.node(healthNamespace, 'Press'))).toContain('Points')
  const inside = await client.below(points)
  expect(inside).toContain('press')
  // sixteen at once see the same
  const all = await Promise.all(Array.from({ length: 16 }, () => client.below(points)))
  expect(all).toEqual(all.map(() => inside))
  const { references } = await client.session.browse({ nodeId: points, resultMask: 63 } as never)
  const press = references!.find(({ browseName }) => browseName.name === 'press')!.nodeId.toString()
  expect((await client.below(press)).sort()).toEqual(['force', 'limit'])
  const force = `Press|nsu=${tagNamespace};s=press/force|float64`
  const node = client.node(requestNamespace, force)
  const kind = await client.session.read({ nodeId: node, attributeId: AttributeIds.DataType })
  expect(kind.value.value.toString()).toBe('ns=0;i=11')
  expect(onRequest()).toEqual([])
  expect((await client.read(requestNamespace, force)).value.value).toBe(12)
  expect(onRequest()).toMatchObject([{ text: force }])
  expect(await client.write(requestNamespace, force, 15)).toBe('Good')
  await until(() => device.value('press/force') === 15)
  // it still stands where it was found
  expect((await client.below(press)).sort()).toEqual(['force', 'limit'])
}, 120_000)

it('nobody sees behind a link where points may not be asked for', async () => {
  const { client } = await behind({ onRequest: { on: false } })
  expect(await client.below(client.node(healthNamespace, 'Press'))).not.toContain('Points')
}, 120_000)
