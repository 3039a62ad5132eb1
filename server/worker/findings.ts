import type { Finding } from '#shared/notes'
import { steadyNow } from '#pacing/clock'
import { engineClient } from '../runtime/engineClient'

const freshMs = 2000
const withinMs = 2000

let last: { at: number; findings: Finding[] } = { at: 0, findings: [] }

/** What the engine found out on the far side, as it was a moment ago; nothing while the engine is away. */
export const findingsNow = async (): Promise<Finding[]> => {
  if (steadyNow() - last.at < freshMs) return last.findings
  const findings = await engineClient.call((engine) => engine.findings(), withinMs).catch(() => [])
  last = { at: steadyNow(), findings }
  return findings
}
