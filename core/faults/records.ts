import { entry } from './entry'

/** Rows of a database as tags. */
export const recordsFaults = {
  'records.too-many': entry<{ name: string; most: number }>(
    'entry',
    (e) => `“${e.name}” comes to more than ${e.most.toLocaleString('en-GB')} rows. None of them was taken.`,
    () => 'Let the set hold more rows, or ask for fewer of them with a statement.',
  ),
  'records.too-wide': entry<{ name: string; tags: number; most: number }>(
    'entry',
    (e) =>
      `“${e.name}” comes to ${e.tags.toLocaleString('en-GB')} tags, and a set has at most ${e.most.toLocaleString('en-GB')}. None was made.`,
    () => 'Choose fewer columns, or ask for fewer rows.',
  ),
  'records.same-key': entry<{ column: string; key: string }>(
    'device',
    (e) => `Two rows have ${e.column} ${e.key}. None of the rows was taken.`,
    () => 'Choose a column that tells rows apart, as the key of the table does.',
  ),
  'records.no-key': entry<{ column: string; count: number }>(
    'device',
    (e) => `${e.count === 1 ? 'A row has' : `${e.count} rows have`} no ${e.column}. None of the rows was taken.`,
    () => 'Choose a column that every row has, or leave out such rows with a statement.',
  ),
  'records.no-column': entry<{ column: string; there: string }>(
    'entry',
    (e) => `There is no column ${e.column} in what was asked for.`,
    (e) => `There are ${e.there}.`,
  ),
  'records.no-row': entry<{ row: string }>(
    'entry',
    (e) => `There is no row ${e.row}.`,
    () => 'The set points where it did before. Count and position tell which rows there are.',
  ),
  'records.moved-on': entry<{ row: string; column: string }>(
    'device',
    (e) => `${e.column} of row ${e.row} is no longer what it was when it was read, or the row is gone. Nothing was written.`,
    () => 'It has been read again: look at it, and write once more.',
  ),
  'records.not-written': entry<{ what: string }>(
    'entry',
    (e) => `${e.what} is not written: it comes from the database.`,
    () => 'Let consumers write this column in the settings of the record set.',
  ),
  'records.no-parameter': entry<{ parameter: string; problem: string }>(
    'entry',
    (e) => `Parameter ${e.parameter} has nothing: ${e.problem}.`,
    () => 'Write it first, or give it a value to start with.',
  ),
  'records.busy': entry<{ name: string; most: number }>(
    'consumer',
    (e) => `${e.most} requests wait for “${e.name}” already.`,
    () => 'Ask more slowly than the database answers.',
  ),
  'records.slow': entry<{ routine: string; ms: number }>(
    'device',
    (e) => `${e.routine} did not end within ${e.ms} ms, and was ended.`,
    () => 'Find out there what it waits for, or give statements more time in the settings of the link.',
  ),
  'records.no-routine': entry<{ routine: string }>(
    'entry',
    (e) => `There is no procedure and no function ${e.routine} that we may see.`,
    () => 'Correct its name, or have our account given the right to it.',
  ),
  'records.off': entry<{ name: string }>(
    'entry',
    (e) => `“${e.name}” is switched off, or its link is.`,
    () => 'Switch it on first.',
  ),
} as const
