/** What an SQLSTATE means (ISO/IEC 9075-2, subclause 24.1): by its class, and some of its own. */

const classes: Record<string, string> = {
  '02': 'there was nothing',
  '08': 'the connection broke',
  '0A': 'it does not offer this',
  '21': 'more or fewer rows than it may be',
  '22': 'a value does not fit',
  '23': 'a rule of the table says no',
  '25': 'the transaction is in a state that does not allow it',
  '28': 'it does not let us in',
  '40': 'it took the transaction back because of another one',
  '42': 'the statement names what is not there, or what we may not use',
  '53': 'it has run out of space, memory or connections',
  '54': 'the statement is beyond its limits',
  '55': 'what it needs is in use, or not ready',
  '57': 'somebody stopped it, or it is being shut down',
  '58': 'its machine failed it',
  XX: 'something is broken inside of it',
}

const states: Record<string, string> = {
  '22001': 'a text is longer than its column',
  '22003': 'a number is out of the range of its column',
  '22007': 'a text is no time',
  '22P02': 'a text is no value of the type of its column',
  '23502': 'a column must have a value',
  '23503': 'a row that it refers to is not there',
  '23505': 'a row with this key is there already',
  '23514': 'a check of the table says no',
  '28P01': 'name or password is wrong',
  '28000': 'it does not let us in with this name from here',
  '3D000': 'there is no such database',
  '3F000': 'there is no such schema',
  '42501': 'our account may not do this',
  '42703': 'there is no such column',
  '42P01': 'there is no such table',
  '42P07': 'a table of this name is there already',
  '42S01': 'a table of this name is there already',
  '42S02': 'there is no such table',
  '42S22': 'there is no such column',
  '53100': 'its disk is full',
  '53300': 'it has too many connections',
  '57014': 'the statement took longer than it may',
  '57P01': 'it is being shut down',
  '57P03': 'it is just starting',
}

export const stateText = (state: string): string => states[state] ?? classes[state.slice(0, 2)] ?? 'a reason of its own'

/** Classes that the same row meets again, however often it is sent: it is at fault itself, or its table is. */
const lasting = new Set(['0A', '21', '22', '23', '42', '44'])
/** Of those, what somebody may set right without touching the row: the table is made, a column comes back, a right is given. */
const mendable = new Set(['42501', '42P01', '42703', '42S02', '42S22', '3F000', '42000'])

/** Whether sending the same row once more can only fail again. */
export const isForGood = (state: string): boolean => lasting.has(state.slice(0, 2)) && !mendable.has(state)
