import { createPublicKey, randomBytes } from 'node:crypto'
import type { Kysely } from 'kysely'
import { fault, isFault, type Fault } from '#core/faults/catalogue'
import { pairingText, secretBytes, shortFingerprint } from '#core/pairing/code'
import { visible } from '#core/text/visible'
import { changeConfiguration } from '#db/configuration'
import type { ThingOf } from '#db/subjects'
import type { Database } from '#db/tables'
import { isJoiningProof, joiningCall, joiningProof } from '#security/joiningProof'
import { sealFor } from '#security/nodeSeal'
import { keyFingerprint, type SiteAuthority } from '#security/siteAuthority'
import { joinAsked, nodeForm, type JoinAnswer, type JoinAsked, type StandbyPack } from '#shared/nodeRpc'
import type { NodeCode, NodeDoor } from '#shared/nodes'
import type { Place } from '../farNode/identity'
import type { JournalWriter } from '../journal/journal'

interface Around {
  db: Kysely<Database>
  authority: SiteAuthority
  journal: JournalWriter
  site(): { name: string; nodeDoor: NodeDoor | null }
  node(id: number): ThingOf['node'] | undefined
  /** Makes this machine one of several, before another one may stand by. Throws a fault where that cannot be. */
  several(): Promise<void>
  /** What a machine that stands by is given. */
  pack(): StandbyPack
  /** Where machines that may lead are reached, but for this one. */
  doorsBut(node: number): Place[]
}

interface Open {
  secret: Uint8Array
  call: string
  shown: NodeCode
  timer: NodeJS.Timeout
}

/** So many wrong proofs end a code. */
const mostTries = 5
export const mostClockApartMs = 3_600_000

/** Where codes for nodes are made and used. They live as long as this process, one for each node: a new one ends the one before. */
export class JoiningDesk {
  private open = new Map<number, Open>()

  constructor(private around: Around) {}

  /** Before a code is made for a machine that stands by, this one is one of several. Null: nothing speaks against the code. */
  async prepare(nodeId: number): Promise<Fault | null> {
    if (!this.around.node(nodeId)?.standsBy) return null
    try {
      await this.around.several()
      return null
    } catch (error) {
      return isFault(error) ? error : fault('ours.unexpected', { problem: (error as Error).message })
    }
  }

  make(nodeId: number, minutes: number, by: string): NodeCode | Fault {
    const { authority, journal, site } = this.around
    const node = this.around.node(nodeId)
    const { nodeDoor: door } = site()
    if (!node) return fault('entry.gone', { thing: 'node', id: nodeId })
    if (!door) return fault('node.no-door', {})
    this.withdraw(nodeId)
    const secret = Uint8Array.from(randomBytes(secretBytes))
    const place = { host: door.host, port: door.outsidePort ?? door.port }
    const code = pairingText({ ...place, purpose: 'node', secret, fingerprint: shortFingerprint(authority.fingerprint) })
    const shown = {
      node: nodeId,
      code,
      command: `./conduit ${node.standsBy ? 'standby' : 'node'} ${code}`,
      endsAt: Date.now() + minutes * 60_000,
      by,
      tries: 0,
    }
    const timer = setTimeout(() => this.withdraw(nodeId), minutes * 60_000)
    timer.unref()
    this.open.set(nodeId, { secret, call: joiningCall(secret), shown, timer })
    journal.note(node.name, `${by} made a code for its machine, good for ${minutes} min.`)
    return shown
  }

  list(): NodeCode[] {
    return [...this.open.values()].map(({ shown }) => shown)
  }

  /** Whether there was one. */
  withdraw(nodeId: number): boolean {
    const known = this.open.get(nodeId)
    if (!known) return false
    clearTimeout(known.timer)
    return this.open.delete(nodeId)
  }

  /** A machine asks to become a node: all of it, or nothing. */
  async join(given: unknown, from: string): Promise<JoinAnswer> {
    const asked = joinAsked.safeParse(given)
    if (!asked.success) return refused(fault('node.words', { problem: 'its question has another form' }))
    try {
      return await this.joined(asked.data, from)
    } catch (error) {
      if (!isFault(error)) this.around.journal.caution('Nodes', `A machine at ${from} could not become a node: ${(error as Error).message}`)
      return refused(isFault(error) ? error : fault('ours.unexpected', { problem: (error as Error).message }))
    }
  }

  close() {
    for (const id of [...this.open.keys()]) this.withdraw(id)
  }

  private async joined(asked: JoinAsked, from: string): Promise<JoinAnswer> {
    const { authority, journal, site } = this.around
    const { nodeDoor: door, name: siteName } = site()
    const known = [...this.open.values()].find(({ call }) => call === asked.call)
    const at = door ? `${door.host}:${door.outsidePort ?? door.port}` : 'this address'
    if (!known) {
      journal.caution('Nodes', `A machine at ${from} (${visible(asked.host)}) came with a code that is not open.`)
      return refused(fault('node.not-awaited', { at }))
    }
    const joining = { authority: authority.fingerprint, node: keyFingerprint(asked.key) }
    if (!isJoiningProof(asked.proof, known.secret, 'node', joining)) return refused(this.wrong(known, from))
    const node = this.around.node(known.shown.node)
    if (!node) return refused(fault('node.not-awaited', { at }))
    if (asked.form !== nodeForm) return this.told(node.name, fault('node.form', { theirs: asked.form, ours: nodeForm }))
    if (asked.standsBy !== node.standsBy) return this.told(node.name, fault('node.command', { standsBy: node.standsBy }))
    const aheadMs = asked.now - Date.now()
    if (Math.abs(aheadMs) > mostClockApartMs) return this.told(node.name, fault('node.clock', { name: node.name, aheadMs }))
    const certificate = await authority.issueTo(`node ${node.id}`, asked.key)
    await this.decide(node.id, known.shown.by, joining.node, `${visible(asked.host)} at ${from}`)
    this.withdraw(node.id)
    const proof = joiningProof(known.secret, 'site', joining)
    const pack = node.standsBy ? sealFor(createPublicKey(asked.key), JSON.stringify(this.around.pack())) : null
    const doors = this.around.doorsBut(node.id)
    return { ok: true, node: node.id, name: node.name, site: siteName, proof, certificate, authority: authority.pem, pack, doors }
  }

  /** The node is this machine from now on, and no other. */
  private async decide(id: number, who: string, key: string, machine: string) {
    await changeConfiguration(this.around.db, who, '', async (editor) => {
      const row = await editor.row('node', id)
      if (!row) throw fault('entry.gone', { thing: 'node', id }) as unknown as Error
      editor.what = `Node “${row.name}” is the machine ${machine}`
      return editor.update('node', row, { key })
    })
  }

  private wrong({ shown }: Open, from: string): Fault {
    shown.tries++
    this.around.journal.caution('Nodes', `A wrong proof came for the code of a node, from ${from}.`)
    if (shown.tries < mostTries) return fault('node.proof', { by: 'The machine' })
    this.withdraw(shown.node)
    const why = fault('node.guessed', { tries: shown.tries }, `the last from ${from}`)
    this.around.journal.trouble('Nodes', why.what, why)
    return why
  }

  private told(name: string, why: Fault): JoinAnswer {
    this.around.journal.caution(name, why.what, why)
    return refused(why)
  }
}

const refused = (why: Fault): JoinAnswer => ({ ok: false, fault: why })
