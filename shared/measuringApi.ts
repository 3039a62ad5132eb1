import type { CallFilter, CallPage } from '#core/calls/callBook'
import type { CourseMinute } from '#core/statistics/course'
import type { CallTotals } from './calls'
import type { Answer } from './rpc'
import type { AllStatistics, MeasuredKind } from './statistics'

/** What the web side asks of what the engine measures and notes. */
export interface MeasuringApi {
  /** What was asked of each link, outlet and bridge, and how it was answered. */
  statistics(): AllStatistics
  /** Counts anew from now on; null: all. */
  resetStatistics(only: { of: MeasuredKind; id: number } | null): Answer<null>
  /** Minute by minute, the oldest first. */
  statisticsCourse(of: MeasuredKind, id: number): Answer<CourseMinute[]>
  /** What clients of an outlet asked and were told. */
  calls(outletId: number, filter: CallFilter, most: number): Answer<CallPage>
  callTotals(outletId: number): Answer<CallTotals>
}
