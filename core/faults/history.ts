import { entry } from './entry'

/** What was recorded, and pictures of it. */
export const historyFaults = {
  'trends.not-there': entry<{ id: number }>(
    'entry',
    (e) => `There is no set of trends number ${e.id} that you may look at or change.`,
    () => 'It may be somebody else’s, no longer shared, or removed. Open the list of sets again.',
  ),
  'history.slow': entry<{ ms: number }>(
    'here',
    (e) => `The database did not answer the question within ${e.ms} ms.`,
    () => 'Ask for a shorter span or fewer series. If it stays so, look at how busy the database is.',
  ),
  'history.too-many-windows': entry<{ most: number }>(
    'entry',
    (e) => `There are more than ${e.most.toLocaleString('en-GB')} windows in this span.`,
    () => 'Ask for a shorter span, or for longer windows.',
  ),
  'history.table': entry<{ line: number; problem: string }>(
    'entry',
    (e) => `Nothing was taken: line ${e.line}: ${e.problem}`,
    () => 'Mend the line and send the table again. What is exported from Trends as CSV shows the form.',
  ),
  'history.too-many': entry<{ most: number }>(
    'entry',
    (e) => `This comes to more than ${e.most.toLocaleString('en-GB')} rows, and such a file is made as a whole.`,
    () => 'Ask for a shorter span, for minutes instead of single samples, or for CSV, which has no such limit.',
  ),
} as const
