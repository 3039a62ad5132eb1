import type { Kysely } from 'kysely'
import { fault } from '#core/faults/catalogue'
import { changeConfiguration } from '#db/configuration'
import type { Database } from '#db/tables'
import type { Seal } from '#security/seal'
import { keyFingerprint, newKeys, type SiteAuthority } from '#security/siteAuthority'
import { nodeDoor } from '#shared/nodes'
import { NodeIdentity } from '../farNode/identity'

interface Around {
  db: Kysely<Database>
  stateFolder: string
  seal: Seal
  authority: SiteAuthority
  hostname: string
}

/** Makes the only machine of a site a node of it, before another one may stand by. Throws a fault where nobody could reach it. */
export const makeOwnNode = async ({ db, stateFolder, seal, authority, hostname }: Around): Promise<NodeIdentity> => {
  const keys = await newKeys()
  const key = keyFingerprint(keys.publicKey)
  const { result } = await changeConfiguration(db, 'Keen Conduit', 'This machine is a node of its own now', async (editor) => {
    const site = await editor.db.selectFrom('site').select(['name', 'nodeDoor']).executeTakeFirstOrThrow()
    const door = nodeDoor.nullable().catch(null).parse(site.nodeDoor)
    if (!door) throw fault('node.no-door', {}) as unknown as Error
    const taken = new Set((await editor.db.selectFrom('node').select('name').execute()).map(({ name }) => name.toLowerCase()))
    const name = freeName(hostname || 'Machine', taken)
    const [made] = await editor.insert('node', [{ name, note: 'The first machine of the site', key, standsBy: true, door: door as never }])
    return { node: made!.id, name, site: site.name }
  })
  const certificate = await authority.issueTo(`node ${result.node}`, keys.publicKey)
  const secrets = { key: keys.privateKey, certificate, authority: authority.pem }
  return NodeIdentity.save(stateFolder, seal, { ...result, places: [], standsBy: true, ...secrets })
}

const freeName = (name: string, taken: ReadonlySet<string>): string => {
  for (let number = 1; ; number++) {
    const tried = number === 1 ? name : `${name} ${number}`
    if (!taken.has(tried.toLowerCase())) return tried
  }
}
