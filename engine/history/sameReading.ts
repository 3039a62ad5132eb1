import type { RecordedSample } from './parcel'

/** Whether a sample says nothing that was not recorded: it is no older, of one quality, and no further away than the deadband. */
export const isSameReading = (last: RecordedSample, sample: RecordedSample, band: number): boolean => {
  if (sample.at < last.at || sample.quality !== last.quality || sample.text !== last.text) return false
  return Object.is(sample.number, last.number) || (sample.text === null && Math.abs(sample.number - last.number) <= band)
}
