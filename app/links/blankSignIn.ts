import type { HttpSettings } from '#core/http/settings'

type SignIn = HttpSettings['signIn']

/** A way to sign in at a web API, before anything is typed. */
export const blankSignIn = (kind: SignIn['kind']): SignIn => {
  const blank = { plain: '' }
  switch (kind) {
    case 'none':
      return { kind }
    case 'basic':
      return { kind, user: '', password: blank }
    case 'bearer':
      return { kind, token: blank }
    case 'key':
      return { kind, in: 'header', name: 'X-API-Key', key: blank }
    case 'oauth':
      return { kind, tokenAddress: '', clientId: '', secret: blank, scope: '', how: 'header' }
  }
}
