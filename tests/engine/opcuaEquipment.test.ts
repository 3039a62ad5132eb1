import { AttributeIds, BrowseDirection, NodeClass, resolveNodeId, type NodeId } from 'node-opcua'
import { sql } from 'kysely'
import { afterEach, expect, it } from 'vitest'
import { freePort } from '../../launcher/ports.mjs'
import { changeConfiguration } from '#db/configuration'
import type { Editor } from '#db/editor'
import { thingsOf } from '#db/rows'
import { propertyTags } from '#core/equipment/made'
import { Model } from '#core/equipment/model'
import { classContract, equipmentContract } from '#core/equipment/settings'
import { outletContract } from '#shared/outlets/outlet'
import { tagOfProperty } from '#shared/equipment/tags'
import { closeAll, databaseFor, engineOn, type Closing } from '../support/engineOn'
import { plainClient, type Client } from '../support/outlet'
import { until } from '../support/until'

/** Equipment as a client of the standard sees it (OPC 10000-3, 6; OPC 30020). */

const closing: Closing = []
afterEach(() => closeAll(closing))

const classes = [
  { name: 'Drive', properties: [{ name: 'rated', unit: 'kW', made: { kind: 'constant', value: 200 } }] },
  { name: 'Crane drive', parent: 'Drive', properties: [{ name: 'ready', type: 'bool', made: { kind: 'constant', value: true } }] },
].map((one) => classContract.parse(one))
const pieces = [
  { path: 'Quay', level: 'area' },
  { path: 'Quay/Crane 1', class: 'Crane drive', description: 'the old one' },
  { path: 'Quay/Supply', class: 'Drive', relations: [{ kind: 'feeds', to: 'Quay/Crane 1' }] },
  { path: 'Office', class: 'Drive' },
  // called as types might be
  { path: 'type' },
  { path: 'type/Drive', class: 'Drive' },
].map((one) => equipmentContract.parse(one))

const insertTags = async (editor: Editor, model: Model, paths: readonly string[]) => {
  const made = [...model.equipment.values()].filter(({ path }) => paths.includes(path)).flatMap((one) => propertyTags(model, one))
  await editor.insert('tag', made.map(tagOfProperty))
}

const site = async () => {
  const database = await databaseFor(closing)
  const port = await freePort()
  const anonymous = ['Quay', 'type'].map((folder) => ({ folder, may: 'read' }))
  const outlet = outletContract.parse({ name: 'SCADA', kind: 'opcua-server', settings: { doors: [{ port }], anonymous } })
  const { result: rows } = await changeConfiguration(database.db, 'test', 'made', async (editor) => {
    await editor.insert('equipmentClass', classes)
    const made = await editor.insert('equipment', pieces)
    await insertTags(
      editor,
      new Model(classes, thingsOf('equipment', made)),
      pieces.map(({ path }) => path),
    )
    await editor.insert('outlet', [outlet])
    return made
  })
  const { engine } = await engineOn(closing, database)
  await until(() => engine.status().outlets[0]?.flow === 'flowing')
  const client = await plainClient(port)
  closing.push(() => client.close())
  return { database, engine, client, rows }
}

const references = async (client: Client, nodeId: NodeId | string, direction = BrowseDirection.Forward) =>
  (await client.session.browse({ nodeId, browseDirection: direction, resultMask: 63, referenceTypeId: resolveNodeId('References'), includeSubtypes: true })).references! // prettier-ignore
const named = async (client: Client, nodeId: NodeId | string, reference: string) => {
  const type = resolveNodeId(reference)
  return (await references(client, nodeId)).filter(({ referenceTypeId }) => referenceTypeId.toString() === type.toString())
}
const names = (found: readonly { browseName: { name?: string | null } }[]) => found.map(({ browseName }) => browseName.name).sort()
const equipment = (client: Client, id: string) => client.node('urn:keen-conduit:equipment', id)
const tagNode = (client: Client, path: string) => client.node('urn:keen-conduit:tags', path)

it('stands as objects of the types of their classes, whose components are the variables of its tags', async () => {
  const { client } = await site()
  const [types] = [await named(client, resolveNodeId('BaseObjectType'), 'HasSubtype')]
  expect(types.find(({ browseName }) => browseName.name === 'Drive')?.nodeId.toString()).toBe(equipment(client, '/type/Drive').toString())
  expect(names(await named(client, equipment(client, '/type/Drive'), 'HasSubtype'))).toEqual(['Crane drive'])
  const [declared] = await named(client, equipment(client, '/type/Drive'), 'HasComponent')
  expect(declared!.browseName).toEqual((await named(client, equipment(client, 'Quay/Supply'), 'HasComponent'))[0]!.browseName)
  const [rule] = await named(client, declared!.nodeId, 'HasModellingRule')
  expect(rule!.browseName.name).toBe('Mandatory')

  const crane = equipment(client, 'Quay/Crane 1')
  expect((await named(client, crane, 'HasTypeDefinition'))[0]!.nodeId.toString()).toBe(equipment(client, '/type/Crane drive').toString())
  const parts = await named(client, crane, 'HasComponent')
  expect(names(parts)).toEqual(['rated', 'ready'])
  expect(parts.map(({ nodeId }) => nodeId.toString()).sort()).toEqual(['rated', 'ready'].map((name) => tagNode(client, `Quay/Crane 1/${name}`).toString())) // prettier-ignore
  expect((await client.session.read({ nodeId: tagNode(client, 'Quay/Crane 1/rated') })).value.value).toBe(200)
  const [level] = await named(client, crane, 'HasProperty')
  expect((await client.session.read({ nodeId: level!.nodeId })).value.value).toBe('work unit')
  expect((await client.session.read({ nodeId: crane, attributeId: AttributeIds.Description })).value.value).toMatchObject({
    text: 'the old one',
  })
})

it('hangs together by levels and relations, and shows nobody what does not concern them', async () => {
  const { client } = await site()
  const top = (await references(client, resolveNodeId('ObjectsFolder'))).find(({ browseName }) => browseName.name === 'Equipment')!
  expect(names(await named(client, equipment(client, 'type'), 'Organizes'))).toEqual(['Drive'])
  // the office is for others
  expect(names(await named(client, top.nodeId, 'Organizes'))).toEqual(['Quay', 'type'])
  expect(names(await named(client, equipment(client, 'Quay'), 'Organizes'))).toEqual(['Crane 1', 'Supply'])
  const feeds = (await references(client, equipment(client, 'Quay/Supply'))).find(({ browseName }) => browseName.name === 'Crane 1')!
  const type = await client.session.read({ nodeId: feeds.referenceTypeId, attributeId: AttributeIds.BrowseName })
  expect([type.value.value.name, feeds.nodeClass]).toEqual(['feeds', NodeClass.Object])
  const [office] = await named(client, equipment(client, 'Office'), 'HasProperty').catch(() => [])
  if (office) expect((await client.session.read({ nodeId: office.nodeId })).statusCode.isGood()).toBe(false)
})

it('follows what is changed: a property more, other relations, a piece that goes, and its tags go on meanwhile', async () => {
  const { client, database, rows } = await site()
  const wider = classContract.parse({ ...classes[0]!, properties: [...classes[0]!.properties, { name: 'slip', unit: '%', made: { kind: 'constant', value: 2 } }] }) // prettier-ignore
  await changeConfiguration(database.db, 'test', 'changed', async (editor) => {
    const [row] = await editor.rows('equipmentClass', [1])
    await editor.update('equipmentClass', row!, wider)
    const model = new Model([wider, classes[1]!], thingsOf('equipment', rows))
    const slips = [...model.equipment.values()].flatMap((one) => propertyTags(model, one)).filter(({ property }) => property === 'slip')
    await editor.insert('tag', slips.map(tagOfProperty))
    const [supply] = await editor.rows('equipment', [rows[2]!.id])
    await editor.update('equipment', supply!, { relations: [{ kind: 'is backup of', to: 'Quay/Crane 1' }] })
  })
  const parts = async (path: string) => names(await named(client, equipment(client, path), 'HasComponent'))
  await until(async () => (await parts('Quay/Crane 1')).join() === 'rated,ready,slip')
  expect(names(await named(client, equipment(client, '/type/Drive'), 'HasComponent'))).toEqual(['rated', 'slip'])
  expect(names(await named(client, equipment(client, '/type/Drive'), 'HasSubtype'))).toEqual(['Crane drive'])
  const relationOf = async () => {
    const found = (await references(client, equipment(client, 'Quay/Supply'))).filter(({ browseName }) => browseName.name === 'Crane 1')
    return Promise.all(found.map(async ({ referenceTypeId }) => (await client.session.read({ nodeId: referenceTypeId, attributeId: AttributeIds.BrowseName })).value.value.name as string)) // prettier-ignore
  }
  await until(async () => (await relationOf()).join() === 'is backup of')

  await changeConfiguration(database.db, 'test', 'gone', async (editor) => {
    const tags = await sql<{ id: number }>`select id from tag where equipment_id = ${rows[2]!.id}`.execute(editor.db)
    await editor.remove('tag', tags.rows)
    await editor.remove('equipment', [rows[2]!])
  })
  await until(async () => names(await named(client, equipment(client, 'Quay'), 'Organizes')).join() === 'Crane 1')
  expect((await client.session.read({ nodeId: tagNode(client, 'Quay/Crane 1/slip') })).value.value).toBe(2)
  expect(await parts('Quay/Crane 1')).toEqual(['rated', 'ready', 'slip'])
})
