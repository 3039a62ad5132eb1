import type { HttpSettings } from '#core/http/settings'
import type { Security } from '../../trust/security'
import { openedSecret } from '../../trust/openedSecret'
import { ownPairOf, type OwnPair } from '../../trust/ownPair'
import type { Wire } from '../../wire/wire'
import { TokenSource } from './tokens'

/** By what we come to a web API: how calls show whose they are, and what lets the connection through. */
export interface Access {
  signIn: SignIn
  /** By what the connection shows whose it is; null: by nothing. */
  pair: OwnPair | null
  /** Of the account at the proxy; null: nobody signs in there. */
  proxyPassword: string | null
}

/** How calls show whose they are. */
export interface SignIn {
  /** Rejects with a fault where nobody gives what is to be shown. */
  headers(): Promise<Record<string, string>>
  /** The target of a call, with what is shown in its query. */
  target(target: string): string
  /** What was shown last is not believed any more. Whether there may be something else to show. */
  renew(): boolean
}

/** Throws where a secret was sealed elsewhere. */
export const accessOf = (settings: HttpSettings, security: Pick<Security, 'seal' | 'own'>, wire: Wire): Access => {
  const { proxy, trust } = settings
  const rest = {
    pair: ownPairOf(trust.certificate, security),
    proxyPassword:
      proxy.kind === 'http' && proxy.identity.kind === 'password' ? openedSecret(proxy.identity.password, security.seal) : null,
  }
  return { ...rest, signIn: signInOf(settings, security, { ...rest, wire }) }
}

/** Shows nothing of whose we are. */
export const anonymous: SignIn = { headers: () => Promise.resolve({}), target: (target) => target, renew: () => false }

const by = (headers: Record<string, string>): SignIn => ({ ...anonymous, headers: () => Promise.resolve(headers) })

const signInOf = (settings: HttpSettings, { seal }: Pick<Security, 'seal'>, around: Omit<Access, 'signIn'> & { wire: Wire }): SignIn => {
  const { signIn } = settings
  switch (signIn.kind) {
    case 'none':
      return anonymous
    case 'bearer':
      return by({ authorization: `Bearer ${openedSecret(signIn.token, seal)}` })
    case 'basic': {
      const pair = Buffer.from(`${signIn.user}:${openedSecret(signIn.password, seal)}`, 'utf8').toString('base64')
      return by({ authorization: `Basic ${pair}` })
    }
    case 'key': {
      const key = openedSecret(signIn.key, seal)
      if (signIn.in === 'header') return by({ [signIn.name.toLowerCase()]: key })
      const shown = `${encodeURIComponent(signIn.name)}=${encodeURIComponent(key)}`
      return { ...anonymous, target: (target) => `${target}${target.includes('?') ? '&' : '?'}${shown}` }
    }
    case 'oauth': {
      const tokens = new TokenSource(settings, signIn, openedSecret(signIn.secret, seal), around)
      return { ...anonymous, headers: async () => ({ authorization: `Bearer ${await tokens.token()}` }), renew: () => tokens.forget() }
    }
  }
}
