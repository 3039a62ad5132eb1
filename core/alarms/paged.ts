import { isWithin } from '../tags/path'
import { severities } from './limits'

/** What lists of alarms go by. */
interface RankedAlarm {
  path: string
  text: string
  active: boolean
  severity: (typeof severities)[number]
  since: number
}

/** Active ones first, the worst of them first, the newest first. */
const rankOf = ({ active, severity, since }: RankedAlarm) =>
  ((active ? 0 : severities.length) + severities.length - severities.indexOf(severity)) * 1e14 - since

/** How lists of alarms are looked through and ordered. */
export const alarmWays = <T>(of: (item: T) => RankedAlarm) => ({
  text: (item: T) => `${of(item).path} ${of(item).text}`,
  by: { rank: (item: T) => rankOf(of(item)), path: (item: T) => of(item).path, since: (item: T) => of(item).since },
})

export const isAlarmAsked = (
  { path, active }: RankedAlarm,
  { folder = '', isActive = false }: { folder?: string | undefined; isActive?: boolean | undefined },
) => (active || !isActive) && (folder === '' || isWithin(path, folder))
