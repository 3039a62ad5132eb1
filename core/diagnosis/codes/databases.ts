import { stateText } from '../../sql/states'
import type { CodeFamily, Explanation, Row } from './explanation'
import { explained, isMeant, numbered } from './explanation'

/** Errors of databases: SQLSTATE (ISO/IEC 9075-2, 24.1; PostgreSQL, appendix A) and the numbers of MySQL and MariaDB. */
const checks: Readonly<Record<string, readonly string[]>> = {
  '08': ['Look at the log of the database; then at the path check of the link.'],
  '22': ['Compare value and type of the column.', 'Look at the cross-connection: how well does the field fit?'],
  '23': ['Look which rule it is: key, reference, check or a value that must be there.'],
  '25': ['Is it the standby of another? Then enter the one that writes.'],
  '28': [
    'Type name and password again.',
    'PostgreSQL: pg_hba.conf says from where an account may come. MySQL: the host part of the account.',
  ],
  '3D': ['Compare the name of the database; capital letters count.'],
  '3F': ['Compare the name of the schema.'],
  '40': ['It is tried again by itself. If it goes on, look who else writes the same rows.'],
  '42': ['Compare names of tables and columns; names in capital letters need quotation marks.', 'Look at the rights of our account.'],
  '53': ['Look at disk, memory and the number of connections there.'],
  '55': ['See who holds it: select * from pg_stat_activity'],
  '57': ['Look at the log: somebody ended it, a time limit, or it is being shut down.'],
  '58': ['Look at the disk of that machine.'],
}

const named = new Set('00000 01000 02000 08000 08001 08003 08004 08006 0A000 21000 22000 22001 22003 22007 22008 22012 22P02 22P05 23000 23502 23503 23505 23514 25006 28000 28P01 3D000 3F000 40001 40P01 42000 42501 42601 42703 42883 42P01 42P07 42S01 42S02 42S22 53000 53100 53200 53300 53400 54000 55000 55006 55P03 57000 57014 57P01 57P02 57P03 58000 58030 HY000 XX000 XX001'.split(' ')) // prettier-ignore

export const sqlStates: CodeFamily = {
  title: 'SQLSTATE',
  find: ({ words, text, isAlone }): Explanation[] =>
    [...words].flatMap((word) => {
      if (!/^[0-9A-Z]{5}$/.test(word) || /^\d{5}$/.test(word) !== /^\d+$/.test(word)) return []
      // five digits may be any number: only a known state, or one beside its word, is one
      if (!named.has(word) && !(/sqlstate/i.test(text) && /\d/.test(word))) return []
      if (!isAlone && !named.has(word)) return []
      return [explained('SQLSTATE', word, [`class ${word.slice(0, 2)}`, stateText(word), [], checks[word.slice(0, 2)] ?? []])]
    }),
}

const rows: Readonly<Record<number, Row>> = {
  1005: ['cannot create table', 'the table could not be made'],
  1021: ['disk full', 'its disk is full', [], ['Make room there; it waits until then.']],
  1036: ['table is read only', 'the table takes no changes', [], ['Look at its files and their rights.']],
  1040: [
    'too many connections',
    'it has no connection left',
    ['Clients that hold connections without need.'],
    ['show processlist; raise max_connections.'],
  ],
  1044: ['access to the database denied', 'our account may not use this database', [], ['show grants for the account.']],
  1045: [
    'access denied',
    'name or password is wrong, or the account may not come from this machine',
    ['The account is known for another host: ’user’@’host’ counts as a whole.'],
    ['select user, host from mysql.user', 'Type the password again.'],
  ],
  1048: ['column cannot be null', 'a column must have a value'],
  1049: ['unknown database', 'there is no such database', [], ['show databases']],
  1054: ['unknown column', 'there is no such column', [], ['describe TABLE']],
  1062: [
    'duplicate entry',
    'a row with this key is there already',
    [],
    ['Let the bridge replace rows by their key, or look who else writes them.'],
  ],
  1064: ['syntax error', 'the statement is not understood', [], ['Look at the place that it names.']],
  1114: ['the table is full', 'there is no room left in the table or on its disk', [], ['Make room; look at the limit of its file.']],
  1129: ['host is blocked', 'it lets nobody in from this machine after many failed attempts', [], ['flush hosts, there.']],
  1130: ['host not allowed', 'nobody may come from this machine', [], ['Make the account for this host.']],
  1142: ['command denied', 'our account may not do this to the table', [], ['show grants']],
  1146: ['no such table', 'there is no such table'],
  1153: ['packet too large', 'what was sent is larger than it takes', [], ['Raise max_allowed_packet, or send fewer rows at once.']],
  1158: ['read error', 'the connection broke while it read'],
  1159: ['read timeout', 'we were silent for too long'],
  1203: ['too many connections of the user', 'our account has too many connections'],
  1205: ['lock wait timeout', 'another program held the rows for too long', [], ['show engine innodb status; end it there.']],
  1213: ['deadlock', 'two programs waited for each other; ours was taken back', [], ['It is tried again by itself.']],
  1226: ['limit of the user', 'our account has used up what it may', [], ['show grants']],
  1264: ['out of range', 'a number is out of the range of its column'],
  1265: ['data truncated', 'a value does not fit the type of its column'],
  1290: ['read only', 'it is switched to a mode in which it takes no changes', [], ['select @@read_only; is it the copy of another?']],
  1364: ['no default value', 'a column must have a value, and none was given'],
  1366: ['incorrect value', 'a text is no value of its column'],
  1406: ['data too long', 'a text is longer than its column'],
  1451: ['row is referred to', 'other rows refer to this one'],
  1452: ['no such parent row', 'a row that it refers to is not there'],
  1698: ['access denied', 'this account signs in another way than by password', [], ['Give it a password, or make another account.']],
  1836: ['read only mode', 'it takes no changes now'],
  2002: ['cannot connect locally', 'the local socket is not there', [], ['Is it started? Dial 127.0.0.1 instead.']],
  2003: [
    'cannot connect',
    'nobody listens there, or a firewall stops it',
    [],
    ['Try its port: nc -vz HOST 3306', 'bind-address of the server: it may listen for its own machine only.'],
  ],
  2005: ['unknown host', 'the name is not known'],
  2006: [
    'server has gone away',
    'the connection ended: it was idle for too long, or a packet was too large',
    [],
    ['wait_timeout and max_allowed_packet there.'],
  ],
  2013: ['lost connection', 'it broke while a statement was under way'],
  2026: ['TLS error', 'no encrypted connection came about', [], ['Look at the path check of the link.']],
  2059: [
    'authentication plugin',
    'it wants a way to sign in that we do not offer',
    [],
    ['Let the account sign in by its native or sha2 password.'],
  ],
  3024: ['execution time exceeded', 'the statement took longer than it may'],
  3159: ['secure transport required', 'it wants TLS', [], ['Switch TLS on for this link.']],
  3819: ['check violated', 'a check of the table says no'],
  4025: ['constraint failed', 'a check of the table says no'],
}

const beside = /\bmysql\b|\bmariadb\b|\bERROR \d{4}\b|\bSQL\b/i
const byNumber = numbered('MySQL and MariaDB', beside, rows, (code) => String(code))
export const mysqlErrors: CodeFamily = {
  title: byNumber.title,
  // many of their names are common words: only numbers are looked for
  find: (pasted) => (isMeant(pasted, beside) ? byNumber.find({ ...pasted, words: new Set(), text: '', isAlone: true }) : []),
}
