import { join } from 'node:path'
import pino from 'pino'
import { isFault } from '#core/faults/catalogue'
import { changeConfiguration } from '#db/configuration'
import { farEngine } from '#engine/farNode/farEngine'
import { NodeIdentity } from '#engine/farNode/identity'
import { joinSite } from '#engine/farNode/joining'
import { Seal } from '#security/seal'
import { nodeDoor } from '#shared/nodes'
import { freePort } from '../../launcher/ports.mjs'
import { databaseFor, engineOn, stateFolderFor, type Closing } from './engineOn'
import { until } from './until'

/** A site with a door for nodes on loopback, and a node without a machine. */
export const siteWithDoor = async (closing: Closing, database?: Awaited<ReturnType<typeof databaseFor>>) => {
  const base = database ?? (await databaseFor(closing))
  const port = await freePort()
  const door = nodeDoor.parse({ host: '127.0.0.1', interface: '127.0.0.1', port })
  const { result: node } = await changeConfiguration(base.db, 'test', 'A node', async (editor) => {
    await editor.db
      .updateTable('site')
      .set({ name: 'Harrow Sound', nodeDoor: JSON.stringify(door) })
      .execute()
    const [made] = await editor.insert('node', [{ name: 'Outer quay', note: '', key: null, standsBy: false, door: null }])
    return made!
  })
  const running = await engineOn(closing, base)
  await until(
    () => running.nodes.doorPort,
    (open) => open === port,
  )
  const code = (id = node.id) => {
    const made = running.nodes.desk.make(id, 15, 'ada')
    if (isFault(made)) throw new Error(made.what)
    return made
  }
  const status = (id = node.id) => running.nodes.status().find((one) => one.id === id)!
  return { ...running, base, port, node, code, status }
}

/** The seal of a machine that is none of the site’s. */
export const farSeal = () => new Seal('a secret of a machine far from the site')

/** A machine that becomes a node by a code, and runs as that. */
export const machineFor = async (closing: Closing, code: string, { stateFolder = stateFolderFor(closing), dialsAt = 0 } = {}) => {
  const seal = farSeal()
  const joined = NodeIdentity.load(stateFolder, seal) ?? (await joinSite(code, '0.1.0', stateFolder, seal))
  const identity = dialsAt === 0 ? joined : movedTo(joined, stateFolder, seal, dialsAt)
  return { stateFolder, seal, identity, ...(await runningAs(closing, identity, stateFolder, seal)) }
}

/** The site is reached by another port from now on. */
const movedTo = (identity: NodeIdentity, stateFolder: string, seal: Seal, port: number) => {
  const { node, name, site, key, certificate, authority } = identity
  return NodeIdentity.save(stateFolder, seal, { node, name, site, places: [{ host: '127.0.0.1', port }], key, certificate, authority })
}

export const runningAs = async (closing: Closing, identity: NodeIdentity, stateFolder: string, seal: Seal) => {
  const far = await farEngine({ identity, stateFolder, seal, version: '0.1.0', log: pino({ enabled: false }) })
  let isClosed = false
  const close = async () => {
    if (isClosed) return
    isClosed = true
    await far.close()
  }
  closing.push(close)
  return { far, close, keptConfiguration: join(stateFolder, 'last-configuration.jsonl') }
}
