import { within } from './within'

const longestEndMs = 10_000

/** Waits for things to end, but not for ever, and never fails: whoever comes next is not to suffer for them. */
export const boundedEnd = async (ends: readonly Promise<unknown>[], tell: (problem: string) => void): Promise<void> => {
  const settled = Promise.allSettled(ends)
  const outcome = await within(longestEndMs, settled).catch((error: Error) => error)
  if (outcome instanceof Error) return tell(`What was switched off has not ended: ${outcome.message}.`)
  for (const end of outcome) if (end.status === 'rejected') tell(`What was switched off ended with an error: ${String(end.reason)}`)
}
