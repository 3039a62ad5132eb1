import type { Fault } from '#core/faults/catalogue'
import type { Subject } from '#db/subjects'
import { rowOf } from '../store/configuration'
import { engineClient } from './engineClient'

const inForceMs = 5000
/** What is said of things that the engine does not know, or knows as they were. */
const earlyCodes: ReadonlySet<string> = new Set(['entry.gone', 'bridge.off', 'outlet.off'])

type Asked = { ok: true } | { ok: false; fault: Fault }

/** Asks something of a thing. One that was saved a moment ago may not be in force yet: that is waited for, and it is asked once more. */
export const onceInForce = async <T extends Asked>(subject: Subject, id: number, ask: () => Promise<T>): Promise<T> => {
  const answer = await ask()
  if (answer.ok || !earlyCodes.has(answer.fault.code)) return answer
  const { revision } = await rowOf(subject, id)
  await engineClient.call((engine) => engine.effect(revision, inForceMs), 2 * inForceMs)
  return ask()
}
