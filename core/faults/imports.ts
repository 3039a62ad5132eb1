import { entry } from './entry'

/** Tables and texts that come in. */
export const importFaults = {
  'import.unreadable': entry<{ name: string; problem: string }>(
    'entry',
    (e) => `“${e.name}” cannot be read as a table: ${e.problem}`,
    () => 'Nothing was changed. Choose how it is written, or mend it where it is said, and send it again.',
  ),
  'import.no-path': entry<{ name: string; found: string }>(
    'entry',
    (e) => `No column of “${e.name}” says which tag a line is about. ${e.found}`,
    () => 'Name one of the columns “path”, or say here which one it is.',
  ),
  'import.too-long': entry<{ name: string; most: number }>(
    'entry',
    (e) => `“${e.name}” has more than ${e.most.toLocaleString('en-GB')} lines.`,
    () => 'Nothing was changed. Send it in parts.',
  ),
  'import.many': entry<{ most: number }>(
    'here',
    (e) => `${e.most} tables are being read or applied already.`,
    () => 'Wait until one of them is done, or put one away.',
  ),
  'import.gone': entry<{ id: number }>(
    'entry',
    (e) => `The table ${e.id} is not here any more.`,
    () => 'Send it again: a table is kept for two hours after somebody looked at it, and until the web application starts anew.',
  ),
  'import.busy': entry<{ name: string }>(
    'entry',
    (e) => `“${e.name}” is still being read or applied.`,
    () => 'Wait until it is done, or put it away.',
  ),
  'import.done': entry<{ name: string; revision: number }>(
    'entry',
    (e) => `“${e.name}” was applied already, as revision ${e.revision}.`,
    () => 'Send it once more to see what it would change now.',
  ),
  'import.nothing': entry<{ name: string }>(
    'entry',
    (e) => `Nothing in “${e.name}” is chosen that would change anything.`,
    () => 'Choose lines that add, change or remove tags.',
  ),
  'import.stale': entry<{ name: string; thing: string }>(
    'entry',
    (e) => `Nothing of “${e.name}” was applied: ${e.thing} was changed after the plan was made.`,
    () => 'The plan was made anew. Look through it, then apply it.',
  ),
} as const
