import type { CloudPlatformSettings } from '#shared/outlets/cloudPlatform'
import type { OutletDriver } from '../driver'
import { CloudPlatformSession } from './session'

export const cloudPlatformDriver: OutletDriver<CloudPlatformSettings> = {
  open: (context) => new CloudPlatformSession(context),
}
