import type { Fault } from '#core/faults/catalogue'
import { counted } from '#core/text/counted'
import type { BridgeStatus } from '#shared/bridges/status'
import { isWithin } from '#pacing/clock'

/** So long a run for want of something is what is happening. */
const recentMs = 30_000

interface Known {
  halted: Fault | null
  /** What it reads from cannot be read. */
  source: Fault | null
  lastFault: { fault: Fault; at: number } | null
  counts: { runs: number; skipped: number; failed: number }
  destinations: BridgeStatus['destinations']
}

/** How a bridge that is switched on fares, in one sentence: the worst there is. */
export const conditionOf = ({
  halted,
  source,
  lastFault,
  counts,
  destinations,
}: Known): Pick<BridgeStatus, 'flow' | 'sentence' | 'fault'> => {
  if (halted) return { flow: 'broken', sentence: halted.what, fault: halted }
  const away = destinations.find((one) => one.fault !== null)
  const kept = destinations.reduce((total, one) => total + one.kept, 0)
  if (away?.fault) {
    const holding = kept > 0 ? ` · ${counted(kept, 'record')} kept` : ''
    const flow = destinations.every((one) => one.fault) ? 'broken' : 'late'
    return { flow, sentence: `${away.fault.what}${holding}`, fault: away.fault }
  }
  if (source) return { flow: 'broken', sentence: source.what, fault: source }
  if (lastFault && isWithin(recentMs, lastFault.at)) {
    const vain = `${(counts.skipped + counts.failed).toLocaleString('en-GB')} of ${counted(counts.runs, 'run')} came to nothing`
    return { flow: 'late', sentence: `${lastFault.fault.what} · ${vain}`, fault: lastFault.fault }
  }
  const aside = destinations.reduce((total, one) => total + one.aside, 0)
  if (aside > 0) return { flow: 'late', sentence: `${counted(aside, 'record')} refused and laid aside`, fault: null }
  return { flow: 'flowing', sentence: counts.runs === 0 ? 'Waiting for what sets it off' : counted(counts.runs, 'run'), fault: null }
}
