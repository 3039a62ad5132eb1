import { parseEndpoint } from './endpointAddress'
import { modeRank } from './offers'
import type { OpcuaSettings } from './settings'

/**
 * Why a secret that is kept must not simply go on being used after a change of the settings; null: it
 * goes where it went before, at least as well protected.
 */
export const whyNotKept = (before: OpcuaSettings, after: OpcuaSettings): string | null => {
  if (!isSamePlace(before, after)) return 'It would go to another address than before: type it again.'
  if (modeRank[after.mode] < modeRank[before.mode]) return 'It would be less protected on its way than before: type it again.'
  return null
}

const isSamePlace = (before: OpcuaSettings, after: OpcuaSettings): boolean => {
  if (before.awaits || after.awaits) return before.awaits !== null && before.awaits.serverUri === after.awaits?.serverUri
  const [was, is] = [parseEndpoint(before.address), parseEndpoint(after.address)]
  return was.ok && is.ok && was.address.host.toLowerCase() === is.address.host.toLowerCase() && was.address.port === is.address.port
}
