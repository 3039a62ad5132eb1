import type { HttpSettings } from '#core/http/settings'
import type { Security } from '../../trust/security'
import { openedSecret } from '../../trust/openedSecret'

/** How calls show whose they are. */
export interface SignIn {
  headers: Record<string, string>
  /** The target of a call, with what is shown in its query. */
  target(target: string): string
}

/** Throws where a secret was sealed elsewhere. */
export const signInOf = ({ signIn }: HttpSettings, { seal }: Pick<Security, 'seal'>): SignIn => {
  const by = (headers: Record<string, string>): SignIn => ({ headers, target: (target) => target })
  if (signIn.kind === 'none') return by({})
  if (signIn.kind === 'bearer') return by({ authorization: `Bearer ${openedSecret(signIn.token, seal)}` })
  if (signIn.kind === 'basic') {
    const pair = Buffer.from(`${signIn.user}:${openedSecret(signIn.password, seal)}`, 'utf8').toString('base64')
    return by({ authorization: `Basic ${pair}` })
  }
  const key = openedSecret(signIn.key, seal)
  if (signIn.in === 'header') return by({ [signIn.name.toLowerCase()]: key })
  const shown = `${encodeURIComponent(signIn.name)}=${encodeURIComponent(key)}`
  return { headers: {}, target: (target) => `${target}${target.includes('?') ? '&' : '?'}${shown}` }
}
