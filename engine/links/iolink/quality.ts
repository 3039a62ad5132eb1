import { quality } from '#core/tags/quality'
import type { Asked } from './master'

/** What a question that came to nothing means for the values that it was for. */
export const qualityOf = ({ code, why }: Extract<Asked<unknown>, { ok: false }>): number => {
  if (code === null) return why.code === 'http.silent' ? quality.BadTimeout : quality.BadNoCommunication
  if (code === 104) return quality.BadUserAccessDenied
  // it is there, and will answer another time
  if (code === 102) return quality.UncertainLastUsableValue
  if (code === 308 || code === 311) return quality.BadNotConnected
  if (code === 312) return quality.BadTimeout
  if (code === 309 || code === 310 || code === 313) return quality.BadConfigurationError
  return quality.BadDeviceFailure
}
