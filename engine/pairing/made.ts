import type { Kysely } from 'kysely'
import { hostText } from '#core/opcua/endpointAddress'
import { tidyName } from '#core/tags/naming'
import { visible } from '#core/text/visible'
import { changeConfiguration } from '#db/configuration'
import type { Editor } from '#db/editor'
import type { Database } from '#db/tables'
import { decideAbout } from '#db/trust'
import { certificateFacts } from '#security/certificateFacts'
import { pemOf } from '#security/selfSigned'
import { linkContract } from '#shared/links/link'
import { outletContract } from '#shared/outlets/outlet'
import type { GiveWishes, PairedThing, TakeWishes } from '#shared/pairing'
import { tagNamespace } from '../outlets/opcua/addressSpace'
import type { Partner } from './partner'

export interface Deciding {
  db: Kysely<Database>
  /** Who of this site decides. */
  who: string
}

/** How the two come together from then on. */
export type TakingWay = { dial: { host: string; port: number } } | { await: { interface: string; port: number } }
export type GivingWay = { dial: { host: string; port: number } } | { listen: { interface: string; port: number } }

const secured = { policies: ['Basic256Sha256'], modes: ['SignAndEncrypt'], anonymous: false, names: false, certificates: true }

/** The link by which the values of the other copy come: trusted, and made or paired anew in one change. */
export const makeLinkTo = (deciding: Deciding, partner: Partner, way: TakingWay, wishes: TakeWishes): Promise<PairedThing> => {
  const paired = pairedOf(partner)
  const reach =
    'dial' in way
      ? { address: `${hostText(way.dial.host)}:${way.dial.port}`, awaits: null }
      : { address: '', awaits: { ...way.await, serverUri: partner.facts.uri } }
  const secure = { policy: 'Basic256Sha256', mode: 'SignAndEncrypt', identity: { kind: 'ours' } }
  return decided(
    deciding,
    partner,
    { of: 'link', again: wishes.again },
    (name, before) => {
      const folder = wishes.folder || tidyName(name, 'same')
      const takesOver = { place: '', namespaces: [tagNamespace], folder, gone: 'keep' }
      const settings = { takesOver, ...before?.settings, ...reach, ...secure, paired }
      return linkContract.parse({ on: true, kind: 'opcua', name: before?.name ?? name, settings })
    },
    wishes.name,
  )
}

/** The outlet by which our values go to the other copy. */
export const makeOutletFor = (deciding: Deciding, partner: Partner, way: GivingWay, wishes: GiveWishes): Promise<PairedThing> => {
  const paired = pairedOf(partner)
  const ways =
    'dial' in way
      ? { doors: [{ on: false }], dialled: [{ ...way.dial, ...secured }] }
      : { doors: [{ ...way.listen, ...secured }], dialled: [] }
  const rules = [{ folder: wishes.folder, may: wishes.may }]
  const key = { kind: 'certificate', certificate: pemOf(partner.der) }
  return decided(
    deciding,
    partner,
    { of: 'outlet', again: wishes.again },
    (name, before) => {
      const onRequest = { on: wishes.onRequest, mayWrite: wishes.may === 'write', most: mostOnRequest }
      const guests = { anonymous: [{ folder: '', may: 'nothing' }], users: [{ name: paired.name, key, rules }] }
      const settings = { onRequest, ...before?.settings, ...ways, ...guests, paired }
      return outletContract.parse({ on: true, kind: 'opcua-server', name: before?.name ?? name, settings })
    },
    wishes.name,
  )
}

const mostOnRequest = 1000
const longestName = 80

const pairedOf = ({ facts, fingerprint }: Partner) => ({ name: shownName(facts.name), fingerprint })
const shownName = (name: string) => visible(name).trim().slice(0, longestName) || 'Another copy'

type Before = { id: number; name: string; settings: Record<string, unknown> }

interface Which {
  of: 'link' | 'outlet'
  again: number | null
}

const decided = async (
  { db, who }: Deciding,
  partner: Partner,
  { of, again }: Which,
  draftOf: (name: string, before: Before | null) => object,
  wished: string,
): Promise<PairedThing> => {
  const name = wished || shownName(partner.facts.name)
  const { result, revision } = await changeConfiguration(db, who, `Paired with “${shownName(partner.facts.name)}”`, async (editor) => {
    // by a name that the code leads to, or that address translation gives it; the certificate itself is what was agreed on
    await decideAbout(editor, { facts: certificateFacts(partner.der), der: partner.der, verdict: 'trusted', despite: ['host'] })
    const row = again === null ? undefined : await editor.row(of, again)
    const before = row ? { id: row.id, name: row.name, settings: row.settings as Record<string, unknown> } : null
    const draft = draftOf(await freeName(editor, of, name), before)
    if (row) return editor.update(of, row as never, draft as never)
    const [made] = await editor.insert(of, [draft as never])
    return made!
  })
  return { of, id: result.id, name: result.name, revision }
}

const freeName = async (editor: Editor, of: 'link' | 'outlet', wished: string): Promise<string> => {
  const rows = await editor.db.selectFrom(of).select('name').execute()
  const taken = new Set(rows.map(({ name }) => name))
  for (let n = 1; ; n++) {
    const name = n === 1 ? wished : `${wished.slice(0, longestName - 5)} ${n}`
    if (!taken.has(name)) return name
  }
}
