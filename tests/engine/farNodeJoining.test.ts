import { request } from 'node:https'
import { hostname } from 'node:os'
import { afterEach, describe, expect, it, vi } from 'vitest'
import { WebSocket } from 'ws'
import { isFault, type Fault } from '#core/faults/catalogue'
import { pairingText, readNodeText, type NodeCode } from '#core/pairing/code'
import { changeConfiguration } from '#db/configuration'
import { NodeIdentity } from '#engine/farNode/identity'
import { joinSite } from '#engine/farNode/joining'
import { SiteLine } from '#engine/farNode/siteLine'
import { frameKinds } from '#core/nodes/frames'
import { joiningCall, joiningProof } from '#security/joiningProof'
import { keyFingerprint, newKeys } from '#security/siteAuthority'
import { nodeForm, type NodeHello } from '#shared/nodeRpc'
import { freePort } from '../../launcher/ports.mjs'
import { closeAll, stateFolderFor, type Closing } from '../support/engineOn'
import { farSeal, machineFor, siteWithDoor } from '../support/farNodes'
import { until } from '../support/until'

/** Who is not let in as a node, and that nothing is half done then. */

const closing: Closing = []
afterEach(() => {
  vi.restoreAllMocks()
  return closeAll(closing)
})

type Site = Awaited<ReturnType<typeof siteWithDoor>>
const refusalOf = async (work: Promise<unknown>): Promise<Fault> => {
  try {
    await work
  } catch (error) {
    if (isFault(error)) return error
    throw error
  }
  throw new Error('it was not refused')
}
const joining = (code: string, folder = stateFolderFor(closing)) => joinSite(code, '0.1.0', folder, farSeal())
const read = (code: string): NodeCode => {
  const parsed = readNodeText(code)
  if (!parsed.ok) throw new Error(parsed.problem)
  return parsed.code
}
const keyOf = async (site: Site) =>
  (await site.base.db.selectFrom('node').select('key').where('id', '=', site.node.id).executeTakeFirstOrThrow()).key

/** What a machine says that has the code, or something like it. */
const ask = async (site: Site, more: object): Promise<{ ok: boolean; fault?: Fault }> => {
  const body = JSON.stringify({ form: nodeForm, host: hostname(), version: '0.1.0', now: Date.now(), ...more })
  return new Promise((resolve, reject) => {
    const sent = request({ host: '127.0.0.1', port: site.port, path: '/join', method: 'POST', rejectUnauthorized: false }, (response) => {
      let text = ''
      response.on('data', (part: Buffer) => (text += part.toString()))
      response.on('end', () => resolve(JSON.parse(text) as { ok: boolean }))
    })
    sent.on('error', reject)
    sent.end(body)
  })
}
const proved = async (site: Site, code: string) => {
  const { secret } = read(code)
  const { publicKey } = await newKeys()
  const authority = site.nodes.desk['around'].authority.fingerprint
  const proof = joiningProof(secret, 'node', { authority, node: keyFingerprint(publicKey) })
  return { call: joiningCall(secret), proof, key: publicKey }
}

describe('a machine that wants to become a node', () => {
  it('does so once by a code; a second one is told that, here and there', async () => {
    const site = await siteWithDoor(closing)
    const { code } = site.code()
    const identity = await joining(code)
    expect(identity).toMatchObject({ node: site.node.id, name: 'Outer quay', site: 'Harrow Sound' })
    expect(await keyOf(site)).toBe(identity.fingerprint)
    expect(await refusalOf(joining(code))).toMatchObject({ code: 'node.not-awaited' })
    expect(site.journal.entries.some(({ text }) => text.includes('with a code that is not open'))).toBe(true)
    expect(await keyOf(site)).toBe(identity.fingerprint)
  })

  it('is refused by a code that was withdrawn, has run out, or is of another site, and keeps nothing', async () => {
    const [site, other] = [await siteWithDoor(closing), await siteWithDoor(closing)]
    const folder = stateFolderFor(closing)
    const withdrawn = site.code()
    site.nodes.desk.withdraw(site.node.id)
    expect(await refusalOf(joining(withdrawn.code, folder))).toMatchObject({ code: 'node.not-awaited' })
    // the code of one site, led to another
    const led = pairingText({ ...read(site.code().code), port: other.port })
    expect(await refusalOf(joining(led, folder))).toMatchObject({ code: 'node.other-site' })
    expect(NodeIdentity.load(folder, farSeal())).toBeNull()
    expect([await keyOf(site), await keyOf(other)]).toEqual([null, null])
  })

  it('is refused by nonsense, by nobody there, and by a door that is something else', async () => {
    expect(await refusalOf(joining('hello'))).toMatchObject({ code: 'node.code' })
    const site = await siteWithDoor(closing)
    const code = read(site.code().code)
    expect(await refusalOf(joining(pairingText({ ...code, port: 1 })))).toMatchObject({ code: 'node.no-answer', side: 'network' })
  })

  it('that guesses ends the code after five wrong proofs, and the journal says from where', async () => {
    const site = await siteWithDoor(closing)
    const { code } = site.code()
    const wrong = { ...(await proved(site, code)), proof: 'ab'.repeat(32) }
    for (let i = 0; i < 4; i++) expect(await ask(site, wrong)).toMatchObject({ ok: false, fault: { code: 'node.proof' } })
    expect(site.nodes.desk.list()).toMatchObject([{ tries: 4 }])
    expect(await ask(site, wrong)).toMatchObject({ ok: false, fault: { code: 'node.guessed' } })
    expect(site.nodes.desk.list()).toEqual([])
    expect(await refusalOf(joining(code))).toMatchObject({ code: 'node.not-awaited' })
    expect(site.journal.entries.some(({ fault }) => fault?.code === 'node.guessed' && fault.evidence.includes('127.0.0.1'))).toBe(true)
  })

  it('is refused with a clock a year off, or of a newer version, and may come again by the same code', async () => {
    const site = await siteWithDoor(closing)
    const { code } = site.code()
    const asked = await proved(site, code)
    const year = 365 * 86_400_000
    expect(await ask(site, { ...asked, now: Date.now() + year })).toMatchObject({
      ok: false,
      fault: { code: 'node.clock', what: expect.stringContaining('365 days ahead') as string },
    })
    expect(await ask(site, { ...asked, form: nodeForm + 1 })).toMatchObject({ ok: false, fault: { code: 'node.form' } })
    expect(await keyOf(site)).toBeNull()
    expect((await joining(code)).node).toBe(site.node.id)
  })

  it('is not let in half: where the site cannot save it, neither side has anything', async () => {
    const site = await siteWithDoor(closing)
    const { code } = site.code()
    const folder = stateFolderFor(closing)
    vi.spyOn(site.base.db, 'transaction').mockImplementationOnce(() => {
      throw new Error('the database is away')
    })
    expect(await refusalOf(joining(code, folder))).toMatchObject({ code: 'ours.unexpected' })
    expect(NodeIdentity.load(folder, farSeal())).toBeNull()
    expect((await joining(code, folder)).node).toBe(site.node.id)
  })

  it('finds the door where it was moved to last, and nobody in where it was closed', async () => {
    const site = await siteWithDoor(closing)
    await machineFor(closing, site.code().code)
    await until(() => site.status().isConnected)
    const door = site.nodes['door']
    const place = { host: '127.0.0.1', outsidePort: null, interface: '127.0.0.1' }
    const [first, last] = [await freePort(), await freePort()]
    void door.set({ ...place, port: first })
    await door.set({ ...place, port: last })
    await until(() => door.port === last)
    await until(() => !site.status().isConnected)
    await door.set(null)
    expect(door.port).toBeNull()
  })

  it('gets nothing out of the door by anything else', async () => {
    const site = await siteWithDoor(closing)
    const answers = await Promise.all([
      ask(site, { nonsense: true }),
      ask(site, { call: 'x'.repeat(200_000) }).catch(() => ({ ok: false })),
    ])
    expect(answers.map(({ ok }) => ok)).toEqual([false, false])
    const stranger = new WebSocket(`wss://127.0.0.1:${site.port}/node`, { rejectUnauthorized: false })
    expect(await new Promise((resolve) => stranger.on('error', (error) => resolve(error.message)))).toContain('401')
  })
})

describe('a machine that was a node', () => {
  /** Dials as somebody does who has the key of a node, and tells what it was told. */
  const dial = async (identity: NodeIdentity, hello: Partial<NodeHello> = {}) => {
    const failed: Fault[] = []
    const line = new SiteLine({
      identity,
      hello: () => ({ form: nodeForm, version: '0.1.0', run: 'another run', now: Date.now(), revision: 0, has: {}, ...hello }),
      functions: {
        take: () => Promise.resolve(null),
        require() {},
        stored() {},
        resend() {},
        renew() {},
        promise: () => true,
        ask: () => Promise.resolve(null),
      },
      came: () => {},
      left: () => {},
      failed: (why) => failed.push(why),
    })
    closing.push(() => Promise.resolve(line.close()))
    line.start()
    await until(() => failed.length > 0 || line.isConnected)
    return { line, failed }
  }

  it('is not known any more once its node is another machine, or is removed', async () => {
    const site = await siteWithDoor(closing)
    const first = await machineFor(closing, site.code().code)
    await until(() => site.status().isConnected)
    await joining(site.code().code)
    await until(() => first.far.line.fault?.code === 'node.unknown')
    expect(first.far.status()).toMatchObject({
      isConnected: false,
      problem: expect.stringContaining('does not know this machine') as string,
    })
    await changeConfiguration(site.base.db, 'test', 'removed', async (editor) =>
      editor.remove('node', [(await editor.row('node', site.node.id))!]),
    )
    await until(() => site.nodes.status().length === 0)
  })

  it('is refused while another machine with its key is there, and both sides name it', async () => {
    const site = await siteWithDoor(closing)
    const machine = await machineFor(closing, site.code().code)
    await until(() => site.status().isConnected)
    const { failed } = await dial(machine.identity)
    expect(failed).toMatchObject([{ code: 'node.twice', what: expect.stringContaining('127.0.0.1') as string }])
    expect(site.status().isConnected).toBe(true)
    expect(site.journal.entries.some(({ fault }) => fault?.code === 'node.twice')).toBe(true)
    expect(machine.far.line.isConnected).toBe(true)
  })

  it('is refused with a clock that cannot be, of another form, and with a greeting that is none', async () => {
    const site = await siteWithDoor(closing)
    const identity = await joining(site.code().code)
    await until(() => site.engine.wanted.things.node.get(site.node.id)?.key !== null)
    const behind = await dial(identity, { now: Date.now() - 400 * 86_400_000 })
    expect(behind.failed).toMatchObject([{ code: 'node.clock', what: expect.stringContaining('400 days behind') as string }])
    expect(site.status()).toMatchObject({ flow: 'broken', fault: { code: 'node.clock' } })
    expect((await dial(identity, { form: 99 })).failed).toMatchObject([{ code: 'node.form' }])
    expect((await dial(identity, { has: 'much' as never })).failed).toMatchObject([{ code: 'node.words' }])
    expect(site.status().isConnected).toBe(false)
  })

  it('that says what cannot be understood loses its line, and nothing else happens', async () => {
    const site = await siteWithDoor(closing)
    const machine = await machineFor(closing, site.code().code)
    await until(() => site.status().isConnected)
    await until(() => machine.far.line.isConnected)
    machine.far.line.current!.send(Uint8Array.of(frameKinds.samples, 1, 2, 3))
    await until(() => site.journal.entries.some(({ text }) => text.includes('cannot be understood')))
    // it is a sound machine: it comes in again
    await until(() => site.status().isConnected)
  })

  it('does not record what is none of its own', async () => {
    const site = await siteWithDoor(closing)
    const machine = await machineFor(closing, site.code().code)
    await until(() => site.status().isConnected)
    const { parcelFrame } = await import('#core/nodes/frames')
    const { OpenParcel, parcelBytes } = await import('#engine/history/parcel')
    await until(() => machine.far.line.isConnected)
    const open = new OpenParcel()
    open.addSample(12_345, { at: Date.now(), arrived: Date.now(), quality: 0, number: 5, text: null })
    machine.far.line.current!.send(parcelFrame(1, parcelBytes(open.take('foreign'))))
    await until(() => site.journal.entries.some(({ text }) => text.includes('never were its own')))
    const { rows } = await site.base.db
      .selectFrom('history_series')
      .selectAll()
      .execute()
      .then((rows) => ({ rows }))
    expect(rows).toEqual([])
  })
})
