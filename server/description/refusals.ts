import type { FaultCode } from '#core/faults/catalogue'
import type { Operation } from '#shared/api/operation'

/** Whatever is asked: the database or we ourselves may fail. */
const always: FaultCode[] = ['database.away', 'entry.busy', 'force.unreadable', 'ours.unexpected', 'entry.cross-site']
const roleNeeded: FaultCode[] = ['access.sign-in', 'access.change-password', 'access.refused']
const bodyRead: FaultCode[] = ['entry.invalid', 'entry.unreadable', 'entry.too-large', 'entry.too-slow']

/** Every fault that an operation may be refused with; of one that asks the far side, besides what that does. */
export const refusalsOf = ({ method, needs, params, query, body, engine, farSide, faults = [] }: Operation): FaultCode[] => [
  ...new Set<FaultCode>([
    ...faults,
    ...(needs === 'anyone' ? [] : roleNeeded),
    ...(body ? bodyRead : []),
    ...(Object.keys(params.shape).length > 0 || query || farSide ? (['entry.invalid'] as const) : []),
    ...(query || body ? (['entry.unstorable'] as const) : []),
    ...('id' in params.shape ? (['entry.gone'] as const) : []),
    ...(method === 'GET' || needs === 'look' || needs === 'anyone' ? [] : (['case.fixed'] as const)),
    ...(engine ? (['engine.away', 'case.nothing'] as const) : []),
    ...always,
  ]),
]
