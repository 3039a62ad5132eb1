import type { CloudPlatformSettings } from '#shared/outlets/cloudPlatform'
import { sealed } from '../../store/secrets'
import type { OutletSaving } from './kind'

export const cloudPlatformSaving: OutletSaving<CloudPlatformSettings> = {
  problems: (settings, others) => {
    const other = others.find((one) => one.kind === 'cloud-platform' && isSamePlace(one.settings as CloudPlatformSettings, settings))
    return other ? [{ path: 'settings.site', message: `“${other.name}” sends to this platform as ${settings.site} already.` }] : []
  },
  stored: async (settings, saved) => sealed(settings, saved),
}

/** Two that speak for one site would take each other’s equipment for what is no longer here. */
const isSamePlace = (a: CloudPlatformSettings, b: CloudPlatformSettings) => a.site === b.site && placeOf(a) === placeOf(b)

const placeOf = ({ way }: CloudPlatformSettings) =>
  way.kind === 'http' ? way.base.replace(/\/+$/, '').toLowerCase() : `${way.host.toLowerCase()}:${way.port}/${way.root}`
