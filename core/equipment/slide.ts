import { OpenBucket } from '../history/bucket'

/**
 * Windows that follow each other, together: what a window is that slides over them.
 * @param windows in their order, closed, each begun with what held at the end of the one before; at least one
 * @param from when the whole begins; earlier than the first: what was before is not known
 */
export const together = (windows: readonly OpenBucket[], from: number): OpenBucket => {
  const first = windows[0]!
  if (windows.length === 1 && first.at === from) return first
  const whole = new OpenBucket(from, windows.at(-1)!.end)
  whole.begin(first.begunWith)
  for (const window of windows) whole.join(window)
  return whole
}
