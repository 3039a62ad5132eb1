import { createHash, timingSafeEqual } from 'node:crypto'
import type { Secret } from '#core/links/secret'
import type { Seal } from '#security/seal'

interface User {
  name: string
  password: Secret
}

/** Whether name and password belong together. Compares in equal time, whatever is wrong. */
export const isUser = (name: string, password: string, users: readonly User[], seal: Seal): boolean => {
  const user = users.find((candidate) => candidate.name === name)
  const expected = user ? opened(user.password, seal) : null
  return timingSafeEqual(digest(password), digest(expected ?? 'of nobody')) && expected !== null
}

const digest = (text: string) => createHash('sha256').update(text).digest()

/** A secret that was sealed elsewhere lets nobody in. */
const opened = (secret: Secret, seal: Seal): string | null => {
  if ('plain' in secret) return secret.plain
  if (!('sealed' in secret)) return null
  try {
    return seal.open(secret.sealed)
  } catch {
    return null
  }
}
