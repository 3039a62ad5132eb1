import { pastOf } from '../../engine/history/past'
import type { OutletContext, OutletTag } from '../../engine/outlets/driver'

/** What an outlet's tag has where a test says nothing of it. */
export const plainTag = {
  ...{ type: 'float64', writable: false, unit: '', range: null, names: [], description: '' },
} satisfies Partial<OutletTag>

/** Nothing was ever recorded. */
export const noPast: OutletContext<unknown>['past'] = pastOf(
  () => null,
  () => false,
  () => 'UTC',
  () => Promise.resolve(),
)

/** Nothing is ever an alarm. */
export const noAlarms: OutletContext<unknown>['alarms'] = {
  keys: () => [],
  get: () => undefined,
  listen: () => () => {},
  acknowledge: (keys) => [...keys],
  comment: () => false,
}
