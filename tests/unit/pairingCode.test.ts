import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { pairingText, readPairingText, type PairingCode } from '#core/pairing/code'
import { isPairingProof, pairingProof, pairingUri } from '#security/pairingProof'

const code: PairingCode = {
  host: '10.20.0.5',
  port: 4843,
  purpose: 'to-maker',
  secret: Uint8Array.from([0, 1, 2, 3, 4, 5, 6, 7, 8, 255]),
  fingerprint: 'a1b2c3d4e5f607',
}
const text = pairingText(code)

const hosts = fc.oneof(fc.ipV4(), fc.constantFrom('pilots.port.example', 'fe80::1', 'quay-7'))
const codes = fc.record({
  host: hosts,
  port: fc.integer({ min: 1, max: 65_535 }),
  purpose: fc.constantFrom('to-maker' as const, 'from-maker' as const),
  secret: fc.uint8Array({ minLength: 10, maxLength: 10 }),
  fingerprint: fc.uint8Array({ minLength: 7, maxLength: 7 }).map((bytes) => Buffer.from(bytes).toString('hex')),
})

describe('a pairing code', () => {
  it('is an address and eight groups that can be read out', () => {
    expect(text).toMatch(/^10\.20\.0\.5:4843\/([0-9A-HJKMNP-TV-Z]{4}-){7}[0-9A-HJKMNP-TV-Z]{4}$/)
    // form 1, to its maker, then the secret: 0x10 0x00 0x01 0x02 0x03 five bits each
    expect(text.split('/')[1]!.replaceAll('-', '').slice(0, 8)).toBe('200020G3')
  })

  it('is read as it was written', () => {
    fc.assert(
      fc.property(codes, (one) => {
        expect(readPairingText(pairingText(one))).toEqual({ ok: true, code: one })
      }),
    )
  })

  it('is read from what somebody typed: small letters, spaces, other dashes, letters for digits', () => {
    const typed = `  ${text
      .toLowerCase()
      .replaceAll('-', ' – ')
      .replaceAll('0', 'o')
      .replaceAll('1', 'l')
      .replace(/^[^/]*/, '10.20.0.5:4843')} `
    expect(readPairingText(typed)).toEqual({ ok: true, code })
  })

  it('is refused with any one letter of it, or of its address, wrong', () => {
    const letters = '0123456789ABCDEFGHJKMNPQRSTVWXYZ'
    const places = [...text].flatMap((letter, at) => (/[0-9A-Z]/.test(letter) ? [at] : []))
    for (const at of places) {
      const other = letters[(letters.indexOf(text[at]!) + 7) % 32]!
      const wrong = text.slice(0, at) + (at < text.indexOf('/') ? String((Number(text[at]) + 1) % 10) : other) + text.slice(at + 1)
      expect(readPairingText(wrong), wrong).toMatchObject({ ok: false })
    }
  })

  it.each([
    ['', /Paste or type/],
    ['20000-G40', /an address, a slash/],
    ['10.20.0.5:99999/ABCD', /TCP port/],
    ['10.20.0.5:4843/ABCD', /has 32 letters and digits after the slash, not 4/],
    [text.replace('-', 'U'), /“U” is in no code/],
  ])('says of “%s” what is wrong', (typed, problem) => {
    const read = readPairingText(typed)
    expect(read).toMatchObject({ ok: false })
    expect((read as { problem: string }).problem).toMatch(problem)
  })
})

describe('a proof of a code', () => {
  const both = { gives: 'aa'.repeat(32), takes: 'bb'.repeat(32) }

  it('is of this secret, this side and these two certificates only', () => {
    const proof = pairingProof(code.secret, 'takes', both)
    expect(isPairingProof(proof, code.secret, 'takes', both)).toBe(true)
    expect(isPairingProof(proof, code.secret, 'gives', both)).toBe(false)
    expect(isPairingProof(proof, Uint8Array.from([...code.secret].reverse()), 'takes', both)).toBe(false)
    expect(isPairingProof(proof, code.secret, 'takes', { ...both, gives: 'ab'.repeat(32) })).toBe(false)
    expect(isPairingProof(proof, code.secret, 'takes', { gives: both.takes, takes: both.gives })).toBe(false)
    for (const other of ['', 'no hexadecimal', proof.slice(2), `${proof}00`])
      expect(isPairingProof(other, code.secret, 'takes', both)).toBe(false)
  })

  it('and the name by which it is awaited tell nothing of each other', () => {
    expect(pairingUri(code.secret)).toMatch(/^urn:keen-conduit:pairing:[0-9a-f]{32}$/)
    expect(pairingProof(code.secret, 'takes', both)).not.toContain(pairingUri(code.secret).slice(-32))
  })
})
