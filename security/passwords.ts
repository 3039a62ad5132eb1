import { hash, verify, verifySync } from '@node-rs/argon2'
import { randomInt } from 'node:crypto'

/** Hashes with argon2id at the package's defaults (RFC 9106; 19 MiB, 2 passes). */
export const hashPassword = (password: string): Promise<string> => hash(password)

export const isPassword = (password: string, hashed: string): Promise<boolean> => verify(hashed, password).catch(() => false)

/** The same where nobody else waits meanwhile. */
export const isPasswordNow = (password: string, hashed: string): boolean => {
  try {
    return verifySync(hashed, password)
  } catch {
    return false
  }
}

let ofNobody: Promise<string> | null = null

/** Takes as long as a real comparison, so that the time tells nobody which names exist. */
export const pretendToCompare = async (password: string) => {
  await isPassword(password, await (ofNobody ??= hash('the password of nobody')))
}

const letters = 'abcdefghjkmnpqrstuvwxyz23456789'

/** A password to be used once: four groups of four letters that cannot be mistaken for others, 79 bits. */
export const oneTimePassword = (): string =>
  Array.from({ length: 4 }, () => Array.from({ length: 4 }, () => letters[randomInt(letters.length)]).join('')).join('-')
