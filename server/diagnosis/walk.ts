import type { H3Event } from 'h3'
import type { PathKind } from '#shared/diagnosis'
import { streamed } from '../answers/streamed'

/** Has a path walked, its steps on the way as they happen. */
export const walkFor = (event: H3Event, of: PathKind, id: number, entry: number | null = null) =>
  streamed(event, (engine, part) => engine.walkPath(part, of, id, entry))
