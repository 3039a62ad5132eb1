import { entry } from './entry'

/** Sheets by which points are checked one by one. */
export const checkFaults = {
  'checks.closed': entry<{ name: string; by: string }>(
    'entry',
    (e) => `“${e.name}” was closed by ${e.by}: nothing is added to it any more.`,
    () => 'Make another sheet from it: it takes over what has to be checked again.',
  ),
  'checks.no-points': entry<{ what: string }>(
    'entry',
    (e) => (e.what === '' ? 'There would be no point on this sheet.' : `There is no tag, and no folder with tags, called ${e.what}.`),
    () => 'Name folders or tags as they are called under Tags.',
  ),
  'checks.too-many': entry<{ points: number; most: number }>(
    'entry',
    (e) => `These are ${e.points.toLocaleString('en-GB')} points, and a sheet has ${e.most.toLocaleString('en-GB')} at most.`,
    () => 'Make a sheet for each part of the plant.',
  ),
  'checks.not-on': entry<{ tag: number }>(
    'entry',
    (e) => `Tag ${e.tag} is not on this sheet.`,
    () => 'Somebody took it off meanwhile. Bring it back onto the sheet, and send the check again.',
  ),
  'checks.key-taken': entry<{ key: string }>(
    'entry',
    (e) => `The key ${e.key} belongs to a check of another point.`,
    () => 'Make a new UUID for each check. What is sent again keeps its key.',
  ),
  'checks.not-printed': entry<{ problem: string }>(
    'here',
    (e) => `The sheet could not be made into a PDF: ${e.problem}.`,
    () => 'Take it along as HTML, which a browser prints as well; or ask again in a minute.',
  ),
} as const
