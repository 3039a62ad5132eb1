import { heldText, unsteadyOf, type Break } from '#core/diagnosis/steadiness'
import { fault } from '#core/faults/catalogue'
import { duration } from '#core/text/duration'
import type { CheckStep } from '#shared/status'

/** A path that works at the moment of the check, and has broken again and again before it, is not called sound. */
export async function* untilSteady(
  steps: AsyncGenerator<CheckStep>,
  { name, breaks }: { name: string; breaks: readonly Break[] },
): AsyncGenerator<CheckStep> {
  let stopped = false
  for await (const step of steps) {
    stopped ||= step.fault !== null
    yield step
  }
  const now = Date.now()
  const late = stopped ? null : unsteadyOf(breaks, now)
  if (!late) return
  const [within, held] = [duration(now - (late[0]!.at - late[0]!.heldMs)), heldText(late)]
  const why = fault('link.unsteady', { name, times: late.length, within, held })
  yield { step: 'steady', title: 'Steadiness', flow: 'late', evidence: why.what, ms: null, fault: why }
}
