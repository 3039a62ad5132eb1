import { cloudPlatformSettings, platformWay, type CloudPlatformSettings, type PlatformWay } from '#shared/outlets/cloudPlatform'
import { blankSignIn } from '~/links/blankSignIn'

/** A way to a platform, before anything is typed. */
export const blankWay = (kind: PlatformWay['kind']): PlatformWay => {
  if (kind === 'http') {
    const way = platformWay.parse({ kind, base: 'https://platform.example' })
    return { ...way, base: '', signIn: blankSignIn('bearer') } as PlatformWay
  }
  const way = platformWay.parse({ kind, host: 'platform.example', port: 8883, tls: { mode: 'verified' } })
  return { ...way, host: '', identity: { kind: 'password', user: '', password: { plain: '' } } } as PlatformWay
}

/** @param site its name, of which the platform gets what it can take */
export const blankCloud = (site: string): CloudPlatformSettings => {
  const settings = cloudPlatformSettings.parse({ way: { kind: 'http', base: 'https://platform.example' }, site: plainName(site) })
  return { ...settings, way: blankWay('http') }
}

const plainName = (site: string) =>
  site
    .normalize('NFD')
    .toLowerCase()
    .replace(/[^a-z0-9]+/g, '-')
    .replace(/^-+|-+$/g, '')
    .slice(0, 80) || 'site'
