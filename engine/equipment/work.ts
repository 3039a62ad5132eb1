import type { Fault } from '#core/faults/catalogue'
import type { ValueStage } from '#shared/values'

/** What brings the value of one property. */
export interface PropertyWork {
  fault: Fault | null
  /** What the value is made of now. */
  stages(): ValueStage[]
  close(): void
}
