import { duration } from '../text/duration'
import { valueText } from '../text/number'
import type { RecordingHow } from './settings'

/** How tags are recorded, in words. */
export const howText = (how: RecordingHow): string => {
  if (how.kind === 'not') return 'not recorded'
  if (how.kind === 'period') return `every ${duration(how.every)}`
  return how.band === 0 ? 'every change' : `changes of more than ${valueText(how.band)}`
}
