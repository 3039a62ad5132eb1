import { isLessProtected } from '../contracts/protection'
import type { MqttSettings } from './settings'

/** Why a kept password must not simply go on being used after a change of the settings; null: it goes where it went before. */
export const whyNotKept = (before: MqttSettings, after: MqttSettings): string | null =>
  before.host.toLowerCase() !== after.host.toLowerCase() || before.port !== after.port
    ? 'It would go to another address than before: type it again.'
    : isLessProtected(before.tls, after.tls)
      ? 'It would go less protected than before: type it again.'
      : null
