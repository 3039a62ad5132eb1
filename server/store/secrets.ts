import type { Secret } from '#core/contracts/secret'
import { hashPassword, isPasswordNow } from '#security/passwords'
import { Seal } from '#security/seal'
import { mapSecrets, withKept } from '#shared/secrets'
import { invalid } from '../answers/checked'

let opened: Seal | null = null

const seal = (): Seal => {
  const secret = process.env.CONDUIT_SEAL_KEY
  if (!secret) throw new Error('CONDUIT_SEAL_KEY is not set; ./conduit start sets it.')
  return (opened ??= new Seal(secret))
}

/** Settings ready for the database: what was typed is sealed, what is kept comes from the settings saved before. */
export const sealed = <T>(settings: T, saved: unknown = null): T => mapSecrets(complete(settings, saved), sealOne)

/** Settings ready for the engine, from a draft: kept secrets filled in from the saved ones. */
export const complete = <T>(settings: T, saved: unknown): T =>
  mapSecrets(withKept(settings, saved), (secret, { path }) => {
    if ('kept' in secret) throw invalid([{ path: `settings.${path}`, message: 'Nothing is kept here yet; type the secret.' }])
    return secret
  })

const sealOne = (secret: Secret): Secret => ('plain' in secret ? { sealed: seal().close(secret.plain) } : secret)

/** Whether a secret that somebody gives is the one that is kept. */
export const isSecretKept = (kept: unknown, given: string): boolean => {
  const secret = kept as Partial<Record<'sealed' | 'hashed', string>>
  if (secret.hashed !== undefined) return isPasswordNow(given, secret.hashed)
  try {
    return secret.sealed !== undefined && seal().open(secret.sealed) === given
  } catch {
    // sealed with the key of another installation: nobody can tell, so it is another one
    return false
  }
}

/** A secret that is only compared: its argon2id hash, also where it was sealed before. */
export const hashed = async (secret: Secret): Promise<Secret> => {
  if ('plain' in secret) return { hashed: await hashPassword(secret.plain) }
  return 'sealed' in secret ? { hashed: await hashPassword(seal().open(secret.sealed)) } : secret
}

/** A sealed secret in clear; null where it was sealed with the key of another installation. */
export const openSecret = (kept: string): string | null => {
  try {
    return seal().open(kept)
  } catch {
    return null
  }
}
