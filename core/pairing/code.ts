import { base32crockford } from '@scure/base'
import { crc16 } from '../modbus/rtu'
import { endpointText, parseEndpoint } from '../opcua/endpointAddress'

/** What a code is for: for pairing, with values to the copy that made it or from there; or for a machine to become a node of its site. */
const purposes = ['to-maker', 'from-maker', 'node'] as const

interface Code<P extends (typeof purposes)[number]> {
  /** Where the copy that made it is reached. */
  host: string
  port: number
  purpose: P
  /** 10 bytes. */
  secret: Uint8Array
  /** The first bytes of the SHA-256 of its certificate, hexadecimal: 14 digits. */
  fingerprint: string
}

/** What one copy tells another by a line that a person carries over: where it is, how it is known, and a secret for one use. */
export type PairingCode = Code<'to-maker' | 'from-maker'>
/** The same for a machine that is to be a node; the fingerprint is that of the site’s authority. */
export type NodeCode = Code<'node'>
type AnyCode = PairingCode | NodeCode

export type ReadCode<C = PairingCode> = { ok: true; code: C } | { ok: false; problem: string }

/** This form; another one is made by another version. */
const form = 1
export const secretBytes = 10
const fingerprintBytes = 7
const codeBytes = 1 + secretBytes + fingerprintBytes + 2
const codeLetters = (codeBytes * 8) / 5

/** How much of a fingerprint a code holds. */
export const shortFingerprint = (fingerprint: string) => fingerprint.slice(0, fingerprintBytes * 2)

/** `host:port/XXXX-XXXX-…`: eight groups of four letters and digits in which none is taken for another (Crockford's Base32). */
export const pairingText = (code: AnyCode): string => {
  const address = endpointText({ ...code, path: '' })
  const said = Uint8Array.of((form << 4) | purposes.indexOf(code.purpose), ...code.secret, ...fromHex(shortFingerprint(code.fingerprint)))
  const sum = checksum(address, said)
  const letters = base32crockford.encode(Uint8Array.of(...said, sum >> 8, sum & 0xff))
  return `${address}/${letters.match(/.{4}/g)!.join('-')}`
}

const refuse = (problem: string) => ({ ok: false as const, problem })

/** Reads what somebody pasted or typed: small letters, spaces, and letters that look like digits do no harm. */
export const readPairingText = (text: string): ReadCode => {
  const read = readText(text)
  if (!read.ok) return read
  const { purpose, ...rest } = read.code
  if (purpose !== 'node') return { ok: true, code: { ...rest, purpose } }
  return refuse('It makes a machine a node of another site: it is typed on that machine, after ./conduit node.')
}

/** The same for a machine that is to be a node. */
export const readNodeText = (text: string): ReadCode<NodeCode> => {
  const read = readText(text)
  if (!read.ok) return read
  const { purpose, ...rest } = read.code
  if (purpose === 'node') return { ok: true, code: { ...rest, purpose } }
  return refuse('It pairs two copies: it is pasted at the other copy, under Site › Relays.')
}

const readText = (text: string): ReadCode<AnyCode> => {
  const typed = text.trim()
  if (typed === '') return refuse('Paste or type the code that the other side shows, such as 10.20.0.5:4843/AB12-….')
  const cut = typed.lastIndexOf('/')
  if (cut < 0) return refuse('A code is an address, a slash and eight groups of four: 10.20.0.5:4843/AB12-….')
  const parsed = parseEndpoint(typed.slice(0, cut).replace(/\s/g, ''))
  if (!parsed.ok) return refuse(parsed.problem)
  const letters = plainLetters(typed.slice(cut + 1))
  const foreign = /[^0-9A-HJKMNP-TV-Z]/.exec(letters)?.[0]
  if (foreign) return refuse(`“${foreign}” is in no code.`)
  if (letters.length !== codeLetters) return refuse(`A code has ${codeLetters} letters and digits after the slash, not ${letters.length}.`)
  return understood(parsed.address, base32crockford.decode(letters))
}

const understood = ({ host, port }: { host: string; port: number }, bytes: Uint8Array): ReadCode<AnyCode> => {
  const said = bytes.subarray(0, codeBytes - 2)
  const sum = (bytes[codeBytes - 2]! << 8) | bytes[codeBytes - 1]!
  if (sum !== checksum(endpointText({ host, port, path: '' }), said))
    return refuse('A letter or a digit is wrong, of the code or of its address.')
  if (said[0]! >> 4 !== form) return refuse('The code was made by another version of this application: bring both copies to the same.')
  const purpose = purposes[said[0]! & 0xf]
  if (!purpose) return refuse('The code is for something that this version does not know: bring both copies to the same.')
  return {
    ok: true,
    code: {
      ...{ host, port, purpose },
      secret: said.slice(1, 1 + secretBytes),
      fingerprint: toHex(said.subarray(1 + secretBytes)),
    },
  }
}

/** As Crockford has it: O is read as 0, I and L as 1; what only groups is left out. */
const plainLetters = (text: string) =>
  text
    .toUpperCase()
    .replace(/[\s\-‐-―.]/g, '')
    .replace(/O/g, '0')
    .replace(/[IL]/g, '1')

/** A wrong letter anywhere shows, in the address as well. */
const checksum = (address: string, said: Uint8Array): number =>
  crc16(Uint8Array.of(...new TextEncoder().encode(address.toLowerCase()), ...said))

const toHex = (bytes: Uint8Array) => Array.from(bytes, (byte) => byte.toString(16).padStart(2, '0')).join('')
const fromHex = (text: string) => (text.match(/../g) ?? []).map((pair) => parseInt(pair, 16))
