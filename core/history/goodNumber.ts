import { isGood } from '../tags/quality'

/** What buckets and pictures are made of: NaN where it is no good number. */
export const goodNumber = (number: number, code: number): number => (isGood(code) && Number.isFinite(number) ? number : NaN)
