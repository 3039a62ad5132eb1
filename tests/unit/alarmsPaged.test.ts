import { expect, it } from 'vitest'
import { alarmWays, isAlarmAsked } from '#core/alarms/paged'
import { pageOfArray } from '#core/lists/paged'

/** Lists of alarms: which come first, and which are asked for. */

const alarm = (path: string, severity: 'note' | 'caution' | 'trouble', active: boolean, since: number) => ({
  ...{ path, text: `above its limit`, severity, active, since },
})
const all = [
  alarm('quay/level', 'trouble', false, 50),
  alarm('berth/1/power', 'caution', true, 10),
  alarm('berth/1/current', 'trouble', true, 20),
  alarm('berth/2/power', 'caution', true, 30),
]
const ways = alarmWays((one: (typeof all)[number]) => one)
const asked = { offset: 0, limit: 10 }
const paths = (sort: 'rank' | '-since' | 'path', find?: string) =>
  pageOfArray(all, { ...asked, sort, find }, ways).items.map(({ path }) => path)

it('have what is active first, the worst of it, the newest of that', () => {
  expect(paths('rank')).toEqual(['berth/1/current', 'berth/2/power', 'berth/1/power', 'quay/level'])
  expect(paths('-since')[0]).toBe('quay/level')
  expect(paths('path', 'POWER limit')).toEqual(['berth/1/power', 'berth/2/power'])
})

it('may be of a folder, or of what is active only', () => {
  const left = (which: object) => all.filter((one) => isAlarmAsked(one, which)).map(({ path }) => path)
  expect(left({ folder: 'berth/1' })).toEqual(['berth/1/power', 'berth/1/current'])
  expect(left({ isActive: true })).not.toContain('quay/level')
  expect(left({})).toHaveLength(4)
})
