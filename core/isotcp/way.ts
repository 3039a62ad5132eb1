import type { IsoTcpSettings } from './settings'
import type { Ends } from './tpkt'
import { readTsap, tsapOf, usualOwnTsap } from './tsap'

type Way = IsoTcpSettings['way']

/** The ends of a connection, as settings have them. */
export const endsOf = (way: Way): Ends =>
  way.by === 'slot'
    ? { ours: usualOwnTsap, theirs: tsapOf(way.kind, way.rack, way.slot) }
    : { ours: readTsap(way.ours) ?? usualOwnTsap, theirs: readTsap(way.theirs) ?? usualOwnTsap }

/** Where a connection goes, as a person says it. */
export const placeText = (way: Way): string =>
  way.by === 'slot' ? `rack ${way.rack}, slot ${way.slot} (${way.kind} connection)` : `TSAP ${way.theirs}`
