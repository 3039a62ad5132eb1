import { placeOfBase } from './base'
import type { HttpSettings } from './settings'

/** Why a kept secret must not simply go on being used after a change of the settings; null: it goes where it went before. */
export const whyNotKept = (before: HttpSettings, after: HttpSettings): string | null => {
  const [from, to] = [placeOfBase(before.base), placeOfBase(after.base)]
  if (from.host.toLowerCase() !== to.host.toLowerCase() || from.port !== to.port)
    return 'It would go to another address than before: type it again.'
  if (tokensOf(before) !== tokensOf(after) || proxyOf(before) !== proxyOf(after))
    return 'It would go another way than before: type it again.'
  if ((from.isEncrypted && !to.isEncrypted) || (before.trust.verify && !after.trust.verify))
    return 'It would go less protected than before: type it again.'
  return null
}

/** Where a secret goes for tokens; null: nowhere. */
const tokensOf = ({ signIn }: HttpSettings) => (signIn.kind === 'oauth' ? new URL(signIn.tokenAddress).origin : null)

const proxyOf = ({ proxy }: HttpSettings) => (proxy.kind === 'http' ? `${proxy.host.toLowerCase()}:${proxy.port}` : null)
