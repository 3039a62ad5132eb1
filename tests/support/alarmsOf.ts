import type { Alarms } from '#engine/alarms/alarms'

/** All of them, the worst and newest first. */
export const alarmsOf = (alarms: Alarms) => alarms.page({ sort: 'rank', offset: 0, limit: 100_000 }).items
