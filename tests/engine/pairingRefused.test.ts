import { MessageSecurityMode, OPCUAClient, SecurityPolicy, UserTokenType } from 'node-opcua'
import { afterEach, describe, expect, it } from 'vitest'
import { pairingText, readPairingText } from '#core/pairing/code'
import { pairingNamespace, pairingUser, PairingServer } from '#engine/pairing/giver'
import { keyPairOf } from '#engine/opcua/dialling'
import { acceptsAll } from '#engine/opcua/peerStore'
import { Wire } from '#engine/wire/wire'
import { pairingProof } from '#security/pairingProof'
import { freePort } from '../../launcher/ports.mjs'
import { closeAll, type Closing } from '../support/engineOn'
import { copyWith } from '../support/pairing'
import { testSecurity } from '../support/security'
import { until } from '../support/until'

/** What comes to nothing, is named on both sides, and leaves nothing half paired. */

const closing: Closing = []
afterEach(() => closeAll(closing))

type Copy = Awaited<ReturnType<typeof copyWith>>
const nothing = { links: [], outlets: [], certificates: [] }
const read = (code: string) => {
  const parsed = readPairingText(code)
  if (!parsed.ok) throw new Error(parsed.problem)
  return parsed.code
}
const year = 365 * 86_400_000

/** A client of another make, which knows the standard and the code. */
const foreignClient = async (port: number, secret: Uint8Array, gives: string) => {
  const { own } = await testSecurity()
  const client = OPCUAClient.create({
    ...{ endpointMustExist: false, securityMode: MessageSecurityMode.SignAndEncrypt, securityPolicy: SecurityPolicy.Basic256Sha256 },
    ...{ connectionStrategy: { maxRetry: 0 }, clientCertificateManager: acceptsAll, certificateKeyPairProvider: keyPairOf(own) },
    applicationUri: own.uri,
  })
  closing.push(() => client.disconnect())
  await client.connect(`opc.tcp://127.0.0.1:${port}`)
  const password = pairingProof(secret, 'takes', { gives, takes: own.facts.fingerprint })
  const signIn = (proof = password) => client.createSession({ type: UserTokenType.UserName, userName: pairingUser, password: proof })
  const facts = (more: object) => ({ form: 1, name: 'Pilots', version: '0.1.0', uri: own.uri, now: Date.now(), ...more })
  const accept = async (said: unknown) => {
    const session = await signIn()
    const index = (await session.readNamespaceArray()).indexOf(pairingNamespace)
    const inputArguments = [{ dataType: 'String' as const, value: typeof said === 'string' ? said : JSON.stringify(said) }]
    const { outputArguments } = await session.call({ objectId: `ns=${index};s=Pairing`, methodId: `ns=${index};s=Accept`, inputArguments })
    return outputArguments!.map(({ value }) => String(value))
  }
  return { own, signIn, accept, facts }
}

/** A copy that lies, or is of another version, at the other end of a code that awaits it. */
const liar = async (code: string, said: object) => {
  const { secret, host, port } = read(code)
  const security = await testSecurity()
  const wire = new Wire()
  let asked = 0
  const server = await PairingServer.start({
    ...{ security, wire, secret, wrong: () => {}, proven: () => {} },
    ours: () => ({ form: 1, name: 'Pilots', version: '0.1.0', uri: security.own.uri, now: Date.now(), ...said }),
    accept: () => Promise.resolve((asked++, null)),
  })
  closing.push(async () => {
    await server.close()
    wire.close()
  })
  await server.dial({ host, port }, 5000)
  await server.dial({ host, port }, 5000)
  return { asked: () => asked }
}

const giving = async (far: Copy) => {
  const port = await freePort()
  const offer = await far.make({ values: 'from-maker', port })
  return { port, offer, secret: read(offer.code).secret, gives: far.security.own.facts.fingerprint }
}

describe('a code', () => {
  it('that was made here is told apart at once', async () => {
    const office = await copyWith(closing)
    const { code } = await office.make({ values: 'to-maker', port: await freePort() })
    expect((await office.redeem(code)).refused).toMatchObject({ code: 'pairing.itself' })
    expect((await office.redeem(`${code.slice(0, -1)}${code.endsWith('0') ? '1' : '0'}`)).refused).toMatchObject({ code: 'pairing.code' })
  })

  it('that was withdrawn, used, or has run out is of no more use to anybody', async () => {
    const [office, far, third] = await Promise.all([copyWith(closing), copyWith(closing, { 'berth/power': 812 }), copyWith(closing)])
    const withdrawn = await office.make({ values: 'to-maker', port: await freePort() })
    expect(office.desk.withdraw(withdrawn.id)).toBe(true)
    const used = await giving(far)
    expect((await office.redeem(used.offer.code)).fault).toBe(null)
    expect((await third.redeem(used.offer.code)).fault).toMatchObject({ code: 'pairing.not-awaited' })
    expect(await third.rows()).toEqual(nothing)
    expect((await far.redeem(withdrawn.code)).fault?.code).toMatch(/^tcp\.|^pairing\.not-awaited/)
    expect(office.offer(withdrawn.id)).toMatchObject({ state: 'withdrawn', code: '' })
  }, 120_000)

  it('leads to another machine: nothing is said to that', async () => {
    const [office, far, other] = await Promise.all([copyWith(closing), copyWith(closing), copyWith(closing)])
    const { offer } = await giving(far)
    const { port } = await giving(other)
    const led = pairingText({ ...read(offer.code), port })
    expect((await office.redeem(led)).fault).toMatchObject({ code: 'pairing.other-machine', side: 'network' })
    expect(other.desk.list()).toMatchObject([{ state: 'open', tries: 0 }])
    expect(await office.rows()).toEqual(nothing)
  }, 60_000)

  it('is withdrawn once somebody guesses', async () => {
    const far = await copyWith(closing)
    const { port, offer, secret, gives } = await giving(far)
    const { signIn } = await foreignClient(port, secret, gives)
    for (let i = 0; i < 5; i++) await expect(signIn('00'.repeat(32))).rejects.toThrow(/Bad|socket/)
    expect(far.offer(offer.id)).toMatchObject({ state: 'failed', tries: 5, fault: { code: 'pairing.guessed' } })
    expect(far.journal.entries.filter(({ text }) => /wrong proof/.test(text)).length).toBeGreaterThanOrEqual(5)
    await expect(signIn()).rejects.toThrow()
    expect(await far.rows()).toEqual(nothing)
  }, 60_000)
})

describe('the other copy', () => {
  it.each([
    ['a clock that is a year ahead', { now: Date.now() + year }, 'pairing.clock', /365 days ahead/],
    ['a clock that is a year behind', { now: Date.now() - year }, 'pairing.clock', /365 days behind/],
    ['a newer form of pairing', { form: 2 }, 'pairing.form', /newer version/],
    ['a moment that is none', { now: 1e300 }, 'pairing.clock', /days ahead/],
  ])(
    'with %s gets to know it, and so do we',
    async (_what, said, code, words) => {
      const office = await copyWith(closing)
      const port = await freePort()
      const offer = await office.make({ values: 'to-maker', port })
      const there = await liar(offer.code, said)
      const seen = await until(
        () => office.offer(offer.id),
        ({ fault }) => fault !== null,
      )
      expect(seen).toMatchObject({ state: 'open', fault: { code } })
      expect(seen.fault!.what).toMatch(words)
      expect(there.asked()).toBe(0)
      expect(await office.rows()).toEqual(nothing)
    },
    60_000,
  )

  it('that is of another make may come by the code, and hears what is wrong with what it says', async () => {
    const far = await copyWith(closing)
    const { port, secret, gives, offer } = await giving(far)
    const { accept, facts } = await foreignClient(port, secret, gives)
    expect((await accept(facts({ now: Date.now() - year })))[0]).toMatch(/365 days behind/)
    expect((await accept('{"form":'))[0]).toMatch(/cannot be understood/)
    expect((await accept(facts({ form: 7 })))[0]).toMatch(/form 7/)
    expect(await far.rows()).toEqual(nothing)
    expect(far.offer(offer.id)).toMatchObject({ state: 'open' })
  }, 60_000)

  it('that never comes the ordinary way is forgotten again', async () => {
    const far = await copyWith(closing, {}, { settleMs: 1500 })
    const { port, secret, gives, offer } = await giving(far)
    const { accept, facts, own } = await foreignClient(port, secret, gives)
    expect(await accept(facts({}))).toEqual(['', ''])
    await until(async () => (await far.rows()).certificates[0]?.fingerprint === own.facts.fingerprint)
    const seen = await until(
      () => far.offer(offer.id),
      ({ state }) => state === 'failed',
    )
    expect(seen.fault).toMatchObject({ code: 'pairing.no-session' })
    await until(far.rows, (rows) => JSON.stringify(rows) === JSON.stringify(nothing))
  }, 60_000)

  it('cannot save what was decided: neither does this one', async () => {
    const [office, far] = await Promise.all([copyWith(closing), copyWith(closing)])
    const { offer } = await giving(far)
    await far.database.db.schema.alterTable('certificate').renameTo('certificate_away').execute()
    const went = await office.redeem(offer.code)
    expect(went.fault).toMatchObject({ code: 'pairing.there' })
    expect(await office.rows()).toEqual(nothing)
    expect(far.offer(offer.id)).toMatchObject({ state: 'open', fault: { code: 'database.away' } })
  }, 60_000)
})
