import type { Seal } from '#security/seal'
import { cloudPlatformSettings } from '#shared/outlets/cloudPlatform'
import { outletContract, type OutletDraft } from '#shared/outlets/outlet'
import { mapSecrets } from '#shared/secrets'

export const cloudName = 'Port cloud'
export const cloudBase = (port: number) => `http://127.0.0.1:${port}/v1`

/** The equipment of the port with its values, and the quay’s counters, which no equipment has yet. */
export const demoCloud = (port: number, seal: Seal): OutletDraft => {
  const settings = cloudPlatformSettings.parse({
    way: { kind: 'http', base: cloudBase(port), signIn: { kind: 'bearer', token: { plain: 'harrow-sound-token' } } },
    site: 'harrow-sound',
    model: { follow: 'at once' },
    streams: [{ folder: 'quay', every: 5000 }],
  })
  const sealed = mapSecrets(settings, (secret) => ('plain' in secret ? { sealed: seal.close(secret.plain) } : secret))
  return outletContract.parse({ name: cloudName, kind: 'cloud-platform', settings: sealed })
}
