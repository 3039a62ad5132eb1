import type { How } from '#core/records/settings'
import { Cursor } from './cursor'
import { ProcedureCall } from './procedureCall'
import { Snapshot } from './snapshot'
import { TimedQuery } from './timedQuery'
import type { SetGround, SetWork } from './work'

const kinds: { [K in How['kind']]: new (ground: SetGround<Extract<How, { kind: K }>>) => SetWork } = {
  snapshot: Snapshot,
  cursor: Cursor,
  procedure: ProcedureCall,
  query: TimedQuery,
}

/** What a set does, by its kind. */
export const workOf = (ground: SetGround): SetWork => new (kinds[ground.set.how.kind] as new (ground: SetGround) => SetWork)(ground)
