import { holdsBits, maxOffset, type Table } from './address'
import { limits } from './pdu'
import type { PlanLimits } from '../links/planner'
import type { ModbusTcpSettings } from './settings'

/** How requests of a link may be cut, and what they take. */

export const mostElements = (table: Table, requests: { registers: number; bits: number }) =>
  holdsBits(table) ? Math.min(requests.bits, limits.readBits) : Math.min(requests.registers, limits.readRegisters)

/** @param fences offsets that the unit was seen not to be read across */
export const planLimits = (
  table: Table,
  unit: number,
  settings: Pick<ModbusTcpSettings, 'requests' | 'holes'>,
  fences: readonly number[],
): PlanLimits => ({
  most: mostElements(table, settings.requests),
  requestCost: settings.requests.readAcross,
  holes: settings.holes.filter((hole) => hole.table === table && (hole.unit === null || hole.unit === unit)),
  fences,
  last: maxOffset,
})

/** What so many requests take, ms, one after the other or as many at once as the link allows. */
export const roundMs = (requests: number, answerMs: number, { inFlight, pause }: ModbusTcpSettings['requests']) =>
  requests * (answerMs / inFlight + pause)
