import { createPrivateKey, createPublicKey, X509Certificate } from 'node:crypto'
import { mkdtempSync, readFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { describe, expect, it } from 'vitest'
import { pairingText, readNodeText, readPairingText, secretBytes } from '#core/pairing/code'
import { isIssuedBy } from '#security/certificateFacts'
import { isJoiningProof, joiningCall, joiningProof } from '#security/joiningProof'
import { openAt, sealFor } from '#security/nodeSeal'
import { Seal } from '#security/seal'
import { keyFingerprint, newKeys, SiteAuthority } from '#security/siteAuthority'

const folder = () => mkdtempSync(join(tmpdir(), 'conduit-authority-'))
const seal = new Seal('a secret that is only for tests')

describe('the authority of a site', () => {
  it('is made once, keeps its key sealed, and vouches for keys that it never saw', async () => {
    const where = folder()
    const first = await SiteAuthority.load(where, seal)
    const again = await SiteAuthority.load(where, seal)
    expect(again.fingerprint).toBe(first.fingerprint)
    expect(readFileSync(join(where, 'authority', 'authority.key.sealed'), 'utf8')).not.toContain('PRIVATE')
    const { publicKey } = await newKeys()
    const issued = new X509Certificate(await again.issueTo('node 3', publicKey))
    expect(isIssuedBy(issued.raw, new X509Certificate(first.pem).raw)).toBe(true)
    expect(issued.subject).toBe('CN=node 3')
    expect(issued.ca).toBe(false)
    // a node does not pass for a door: client authentication only (RFC 5280, 4.2.1.12)
    expect(issued.keyUsage).toEqual(['1.3.6.1.5.5.7.3.2'])
    const door = new X509Certificate((await again.door()).certificate)
    expect(door.keyUsage).toEqual(['1.3.6.1.5.5.7.3.1'])
    expect(Date.parse(issued.validTo) - Date.now()).toBeGreaterThan(700 * 86_400_000)
  })

  it('vouches for nobody of another site', async () => {
    const [ours, theirs] = [await SiteAuthority.load(folder(), seal), await SiteAuthority.load(folder(), seal)]
    const issued = new X509Certificate(await theirs.issueTo('node 1', (await newKeys()).publicKey))
    expect(isIssuedBy(issued.raw, new X509Certificate(ours.pem).raw)).toBe(false)
  })
})

describe('a secret on its way to a node', () => {
  it('is opened by that node, and by no other; a changed byte shows', async () => {
    const [mine, other] = [await newKeys(), await newKeys()]
    const sealed = sealFor(createPublicKey(mine.publicKey), 'harrow-sound ⚓')
    expect(openAt(createPrivateKey(mine.privateKey), sealed)).toBe('harrow-sound ⚓')
    expect(() => openAt(createPrivateKey(other.privateKey), sealed)).toThrow()
    expect(sealFor(createPublicKey(mine.publicKey), 'harrow-sound ⚓')).not.toBe(sealed)
    const bytes = Buffer.from(sealed, 'base64')
    bytes[bytes.length - 1]! ^= 1
    expect(() => openAt(createPrivateKey(mine.privateKey), bytes.toString('base64'))).toThrow()
    expect(() => openAt(createPrivateKey(mine.privateKey), 'c2hvcnQ=')).toThrow('not sealed for this node')
  })
})

describe('a proof of joining', () => {
  const secret = Uint8Array.from({ length: secretBytes }, (_, i) => i)
  const joining = { authority: 'aa'.repeat(32), node: 'bb'.repeat(32) }

  it('is of one side, one authority, one key and one secret', () => {
    const proof = joiningProof(secret, 'node', joining)
    expect(isJoiningProof(proof, secret, 'node', joining)).toBe(true)
    expect(isJoiningProof(proof, secret, 'site', joining)).toBe(false)
    expect(isJoiningProof(proof, secret, 'node', { ...joining, node: joining.authority })).toBe(false)
    expect(isJoiningProof(proof, secret, 'node', { ...joining, authority: joining.node })).toBe(false)
    expect(
      isJoiningProof(
        proof,
        secret.map((byte) => byte ^ 1),
        'node',
        joining,
      ),
    ).toBe(false)
    expect(isJoiningProof('nonsense', secret, 'node', joining)).toBe(false)
    expect(proof).not.toContain(joiningCall(secret))
  })

  it('goes by the fingerprint of a key, whatever its form', async () => {
    const { publicKey, privateKey } = await newKeys()
    const derived = createPublicKey(createPrivateKey(privateKey)).export({ format: 'pem', type: 'spki' }).toString()
    expect(keyFingerprint(derived)).toBe(keyFingerprint(publicKey))
    expect(keyFingerprint(publicKey)).toMatch(/^[0-9a-f]{64}$/)
  })
})

describe('the code of a node', () => {
  const code = { host: 'port.example', port: 8471, purpose: 'node' as const, secret: new Uint8Array(10), fingerprint: 'a1b2c3d4e5f607' }

  it('is read where a node is made, and told apart where two copies pair', () => {
    const text = pairingText(code)
    expect(readNodeText(text)).toEqual({ ok: true, code })
    expect(readPairingText(text)).toMatchObject({ ok: false, problem: expect.stringContaining('./conduit node') as string })
    const relay = pairingText({ ...code, purpose: 'to-maker' })
    expect(readNodeText(relay)).toMatchObject({ ok: false, problem: expect.stringContaining('Site › Relays') as string })
  })
})
