import { isLessProtected } from '../contracts/protection'
import { noPoints, pointless } from '../links/pointless'
import type { Protocol } from '../links/protocol'
import { usualPort, type SqlSettings } from './settings'

const isSamePlace = (a: SqlSettings, b: SqlSettings) =>
  a.host.toLowerCase() === b.host.toLowerCase() && a.port === b.port && a.dialect === b.dialect

/** Why a kept password must not simply go on being used after a change of the settings; null: it goes where it went before, no less protected. */
const whyNotKept = (before: SqlSettings, after: SqlSettings): string | null => {
  if (!isSamePlace(before, after)) return 'It would go to another server than before: type it again.'
  if (isLessProtected(before.tls, after.tls)) return 'It would go less protected than before: type it again.'
  return null
}

export const sql: Protocol = {
  ...pointless('A database'),
  kind: 'sql',
  title: 'SQL database',
  subtitle: 'Tables of PostgreSQL, MySQL or MariaDB, that bridges write rows into',
  capabilities: { ...noPoints, receives: 'table' },
  goal: (settings) => {
    const { host, port, dialect, tls } = settings as SqlSettings
    const speaks = dialect === 'postgresql' ? 'PostgreSQL' : 'MySQL'
    return { speaks, host, port, carries: 'tcp', usualPort: usualPort[dialect], isEncrypted: tls.mode !== 'off' }
  },
  place: (settings) => {
    const { host, port, database } = settings as SqlSettings
    return `${host}:${port}/${database}`
  },
  whyNotKept: (before, after) => whyNotKept(before as SqlSettings, after as SqlSettings),
}
