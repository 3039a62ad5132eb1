/** What stands in the place of a secret in texts; in bytes as many asterisks. */
const star = 0x2a
export const masked = '••••••'
/** Shorter ones are no secrets, and taking them out of texts would take the texts apart. */
const shortest = 3

/**
 * Takes secrets out of texts and bytes that are given away: those that are known, in every form in which they travel, and what
 * protocols carry at the place of a secret, known or not.
 */
export class Mask {
  private forms: string[]
  private patterns: Uint8Array[]

  constructor(secrets: Iterable<string>) {
    const known = [...new Set(secrets)].filter(({ length }) => length >= shortest)
    // the longest first: one may be a part of another
    this.forms = [...new Set(known.flatMap(formsOf))].sort((a, b) => b.length - a.length)
    this.patterns = [...this.forms.map(utf8), ...known.map(utf16)].sort((a, b) => b.length - a.length)
  }

  text(text: string): string {
    let clean = withoutFields(text)
    for (const form of this.forms) if (clean.includes(form)) clean = clean.split(form).join(masked)
    return clean
  }

  /** Every text inside of a value, keys included. */
  value<T>(value: T): T {
    if (typeof value === 'string') return this.text(value) as T
    if (Array.isArray(value)) return value.map((one: unknown) => this.value(one)) as T
    if (typeof value !== 'object' || value === null) return value
    return Object.fromEntries(
      Object.entries(value).map(([key, one]) => [this.text(key), isSecretName(key) ? hidden(one) : this.value(one)]),
    ) as T
  }

  /** As long as before. */
  bytes(bytes: Uint8Array): Uint8Array {
    const clean = bytes.slice()
    for (const [from, to] of secretPlaces(clean)) clean.fill(star, from, to)
    for (const pattern of this.patterns)
      for (let at = indexIn(clean, pattern, 0); at >= 0; at = indexIn(clean, pattern, at + pattern.length))
        clean.fill(star, at, at + pattern.length)
    return clean
  }
}

const utf8 = (text: string) => new TextEncoder().encode(text)
const utf16 = (text: string) => Uint8Array.from([...text].flatMap((letter) => [letter.charCodeAt(0) & 255, letter.charCodeAt(0) >> 8]))
const base64 = (text: string) => btoa(String.fromCharCode(...utf8(text)))
const hexOf = (text: string) => Array.from(utf8(text), (byte) => byte.toString(16).padStart(2, '0'))

/** As it is, as URLs, JSON and XML write it, in Base64, and as bytes are shown. */
const formsOf = (secret: string): string[] => [
  secret,
  encodeURIComponent(secret),
  JSON.stringify(secret).slice(1, -1),
  secret.replace(/&/g, '&amp;').replace(/</g, '&lt;').replace(/>/g, '&gt;').replace(/"/g, '&quot;'),
  base64(secret),
  hexOf(secret).join(''),
  hexOf(secret).join('').toUpperCase(),
  hexOf(secret).join(' '),
  hexOf(secret).join(' ').toUpperCase(),
]

const secretWords = 'pass(?:word|phrase|wd)?|pwd|secret|token|api[-_]?key|private[-_]?key'
const isSecretName = (key: string) => new RegExp(`^(?:client[-_]?)?(?:${secretWords})$`, 'i').test(key)

/** What only tells that there is one stays. */
const hidden = (value: unknown): unknown =>
  typeof value === 'object' && value !== null && 'kept' in value ? value : value === null || value === '' ? value : masked

/** Headers and fields whose value is a secret wherever they stand. */
const headers = /^((?:proxy-)?authorization|cookie|set-cookie|x-api-key|api-key|x-auth-token)(:[ \t]*)([^\r\n]+)/gim
const fields = new RegExp(`("?(?:client[-_]?)?(?:${secretWords})"?\\s*[:=]\\s*"?)([^"\\s&,;}<]{3,})`, 'gi')
const addresses = /([a-z][a-z0-9+.-]*:\/\/[^\s:/@]+:)([^\s@/]+)(@)/gi

const withoutFields = (text: string): string =>
  text
    .replace(headers, (_, name: string, colon: string) => `${name}${colon}${masked}`)
    .replace(addresses, (_, before: string, __: string, after: string) => `${before}${masked}${after}`)
    .replace(fields, (_, before: string) => `${before}${masked}`)

/** From and to of what a protocol carries as a secret. */
function* secretPlaces(bytes: Uint8Array): Generator<[from: number, to: number]> {
  yield* inMqttConnect(bytes)
  yield* inPasswordMessage(bytes)
  const text = Array.from(bytes, (byte) => String.fromCharCode(byte)).join('')
  for (const match of text.matchAll(headers)) yield [match.index + match[1]!.length + match[2]!.length, match.index + match[0].length]
  for (const match of text.matchAll(fields)) yield [match.index + match[1]!.length, match.index + match[0].length]
}

/** The password is the last field of a CONNECT that says it has one (MQTT 5.0, 3.1; 3.1.1, 3.1). */
function* inMqttConnect(bytes: Uint8Array): Generator<[number, number]> {
  if (bytes[0] !== 0x10) return
  let at = 1
  while (at < 5 && bytes[at]! & 0x80) at++
  at++
  const name = (bytes[at]! << 8) | bytes[at + 1]!
  const flags = bytes[at + 2 + name + 1]
  if (name !== 4 && name !== 6) return
  if (flags === undefined || (flags & 0x40) === 0) return
  const length = passwordLength(bytes)
  if (length > 0) yield [bytes.length - length, bytes.length]
}

/** Fields end with the packet: the last whose length fits is the password. */
const passwordLength = (bytes: Uint8Array): number => {
  for (let length = 1; length < bytes.length - 14; length++) {
    const at = bytes.length - length - 2
    if (((bytes[at]! << 8) | bytes[at + 1]!) === length) return length
  }
  // cut off, or not whole: nothing after the fixed part is shown
  return Math.max(0, bytes.length - 14)
}

/** PasswordMessage of PostgreSQL: “p”, a length, and what proves who we are (53.7). */
function* inPasswordMessage(bytes: Uint8Array): Generator<[number, number]> {
  if (bytes[0] !== 0x70 || bytes.length < 6) return
  const length = new DataView(bytes.buffer, bytes.byteOffset).getUint32(1)
  if (length >= 5 && length + 1 >= bytes.length) yield [5, bytes.length]
}

const indexIn = (bytes: Uint8Array, pattern: Uint8Array, from: number): number => {
  const last = bytes.length - pattern.length
  outer: for (let at = bytes.indexOf(pattern[0]!, from); at >= 0 && at <= last; at = bytes.indexOf(pattern[0]!, at + 1)) {
    for (let i = 1; i < pattern.length; i++) if (bytes[at + i] !== pattern[i]) continue outer
    return at
  }
  return -1
}
