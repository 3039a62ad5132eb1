import type { H3Event } from 'h3'
import { mayDo } from '#core/access/roles'
import type { CheckPart, PathKind } from '#shared/diagnosis'
import { requireWho } from '../access/access'
import { streamed } from '../answers/streamed'
import { onceInForce } from '../runtime/onceInForce'
import { withoutBytes } from './records'

/** Has a path walked, its steps on the way as they happen. */
export const walkFor = (event: H3Event, of: PathKind, id: number, entry: number | null = null) => {
  const maySeeBytes = mayDo(requireWho(event).role, 'configure')
  const shown = (part: unknown) => (maySeeBytes ? part : partWithoutBytes(part as CheckPart))
  return streamed(event, (engine, work) => onceInForce(of, id, () => engine.walkPath(work, of, id, entry)), shown)
}

const partWithoutBytes = (part: CheckPart): CheckPart => ('verdict' in part ? { verdict: withoutBytes(part.verdict) } : part)
