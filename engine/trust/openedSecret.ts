import type { Secret } from '#core/contracts/secret'
import type { Security } from './security'

/** A secret of the settings, as it goes to the far side. Throws where it was sealed elsewhere, or did not come along. */
export const openedSecret = (secret: Secret, seal: Security['seal']): string => {
  if ('plain' in secret) return secret.plain
  if ('sealed' in secret) return seal.open(secret.sealed)
  throw new Error('the secret did not come along')
}
