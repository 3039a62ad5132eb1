import { entry, type Peer } from './entry'

/** Databases that bridges write into. */
export const sqlFaults = {
  'sql.refused': entry<Peer & { state: string; words: string }>(
    'device',
    (e) => `The database at ${e.host}:${e.port} did not let us in: ${e.words} (SQLSTATE ${e.state}).`,
    (e) =>
      e.state === '3D000'
        ? 'Correct the name of the database, or have it made there.'
        : 'Check name and password with its owner, and that the account may come from this machine.',
  ),
  'sql.silent': entry<Peer & { ms: number }>(
    'device',
    (e) => `${e.host}:${e.port} is open, and no database answered within ${e.ms} ms.`,
    (e) => `Another service may listen on port ${e.port}. The usual ports are 5432 for PostgreSQL and 3306 for MySQL and MariaDB.`,
  ),
  'sql.not-sql': entry<Peer & { problem: string }>(
    'device',
    (e) => `What answers on ${e.host}:${e.port} is no database of this kind: ${e.problem}.`,
    () => 'Check the port, and the kind of database that was chosen.',
  ),
  'sql.tls': entry<Peer & { problem: string }>(
    'device',
    (e) => `No encrypted connection to ${e.host}:${e.port} came about: ${e.problem}.`,
    () => 'Have TLS switched on there, give the certificate of its authority here, or choose another protection.',
  ),
  'sql.statement': entry<{ what: string; state: string; words: string; problem: string }>(
    'device',
    (e) => `The database did not take ${e.what}: ${e.words} (SQLSTATE ${e.state}). It says: ${e.problem}`,
    (e) =>
      e.state.startsWith('42') || e.state.startsWith('3F')
        ? 'Compare table, columns and rights there with what is asked for here.'
        : 'Correct the value or the table; what was refused lies aside and can be sent again.',
  ),
  'sql.broken': entry<Peer>(
    'device',
    (e) => `The connection to the database at ${e.host}:${e.port} broke.`,
    () => 'It is tried again by itself. If it goes on, look at the log of the database.',
  ),
  'sql.read-only': entry<{ name: string }>(
    'here',
    (e) => `“${e.name}” is set to read only.`,
    () => 'Switch off “read only” in the settings of the link if bridges are to write there.',
  ),
  'sql.no-right': entry<{ user: string; problem: string }>(
    'device',
    (e) => `Bridges want of the account ${e.user} what it cannot do: ${e.problem}.`,
    () => 'Have the rights granted there, or the table made from the sheet of its bridge.',
  ),
  'sql.no-table': entry<{ table: string }>(
    'device',
    (e) => `There is no table ${e.table} that we may see.`,
    () => 'Create it from the sheet of the bridge, or correct its name, or have our account given the right to it.',
  ),
} as const
