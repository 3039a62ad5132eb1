import type { FaultCode } from '#core/faults/catalogue'

const statuses: Partial<Record<FaultCode, number>> = {
  'entry.gone': 404,
  'entry.taken': 409,
  'entry.edited': 409,
  'entry.in-use': 409,
  'entry.bridged': 409,
  'bridge.off': 409,
  'entry.cannot-take-back': 409,
  'entry.cross-site': 403,
  'entry.too-large': 413,
  'entry.too-slow': 408,
  'entry.no-route': 404,
  'entry.no-method': 405,
  'entry.busy': 503,
  'import.gone': 404,
  'import.many': 503,
  'import.busy': 409,
  'import.done': 409,
  'import.stale': 409,
  'bench.not-there': 404,
  'bench.full': 409,
  'watch.not-there': 404,
  'watch.full': 409,
  'equipment.class-in-use': 409,
  'equipment.owned': 409,
  'trends.not-there': 404,
  'display.no-wall': 403,
  'history.slow': 503,
  'access.people-only': 403,
  'access.sign-in': 401,
  'access.wrong': 401,
  'access.wait': 429,
  'access.refused': 403,
  'access.change-password': 403,
  'access.last-administrator': 409,
  'engine.away': 503,
  'case.nothing': 409,
  'case.fixed': 409,
  'case.none': 409,
  'case.not-empty': 409,
  'database.away': 503,
  'ours.unexpected': 500,
}

/** What was well asked and cannot be done. */
export const usualRefusal = 422

/** The HTTP status of an answer that carries this fault (RFC 9110, 15). */
export const statusOf = (code: FaultCode): number => statuses[code] ?? usualRefusal
