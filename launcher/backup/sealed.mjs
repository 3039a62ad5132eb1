import { createCipheriv, createDecipheriv, randomBytes, scryptSync } from 'node:crypto'
import { readFileSync } from 'node:fs'

/** RFC 7914; about half a second, and 128 MB, for each guess. */
const cost = { N: 2 ** 17, r: 8, p: 1, maxmem: 256 * 1024 * 1024 }
const shortest = 12

/** What a person knows and no file of the backup holds. @returns {string} */
export const passphrase = () => {
  const at = process.argv.indexOf('--passphrase-file')
  const file = at > 0 ? process.argv[at + 1] : undefined
  const given = file ? readFileSync(file, 'utf8').replace(/\r?\n$/, '') : process.env.CONDUIT_BACKUP_PASSPHRASE
  if (!given)
    throw new Error(
      'A backup holds the keys of the site, sealed by a passphrase: give it in CONDUIT_BACKUP_PASSPHRASE, or in a file after --passphrase-file.',
    )
  if (given.length < shortest) throw new Error(`A passphrase has at least ${shortest} characters.`)
  return given
}

/** AES-256-GCM under a key from the passphrase, as JSON. @param {string} text @param {string} phrase */
export const sealedBy = (text, phrase) => {
  const [salt, iv] = [randomBytes(16), randomBytes(12)]
  const cipher = createCipheriv('aes-256-gcm', scryptSync(phrase, salt, 32, cost), iv)
  const data = Buffer.concat([cipher.update(text, 'utf8'), cipher.final()])
  const { N, r, p } = cost
  const parts = { salt, iv, tag: cipher.getAuthTag(), data }
  return JSON.stringify({
    seal: 'aes-256-gcm',
    key: { by: 'scrypt', N, r, p },
    ...Object.fromEntries(Object.entries(parts).map(([name, bytes]) => [name, bytes.toString('base64')])),
  })
}

/** @param {string} sealed @param {string} phrase @returns {string} */
export const openedBy = (sealed, phrase) => {
  const { key, salt, iv, tag, data } = JSON.parse(sealed)
  const bytes = (/** @type {string} */ text) => Buffer.from(text, 'base64')
  // figures of the file: not beyond what we would take ourselves
  if (key.N > cost.N || key.r > cost.r || key.p > cost.p)
    throw new Error('The keys of this backup are sealed in a way that is not known here.')
  const decipher = createDecipheriv(
    'aes-256-gcm',
    scryptSync(phrase, bytes(salt), 32, { ...cost, N: key.N, r: key.r, p: key.p }),
    bytes(iv),
  )
  decipher.setAuthTag(bytes(tag))
  try {
    return Buffer.concat([decipher.update(bytes(data)), decipher.final()]).toString('utf8')
  } catch {
    throw new Error('This is another passphrase than the one that the backup was made with.')
  }
}
