import { entry } from './entry'

/** Folders and files on the engine's machine. */
export const filesFaults = {
  'files.no-root': entry<{ root: string; allowed: string }>(
    'here',
    (e) => `${e.root || 'A folder'} is not one of the folders that were allowed on this machine.`,
    (e) => `Allowed are: ${e.allowed || 'none'}. An administrator allows others on the page Site.`,
  ),
  'files.leaves': entry<{ way: string }>(
    'here',
    (e) => `${e.way} leads out of the allowed folder.`,
    () => 'A link in the file system leads elsewhere. Remove it, or allow the folder that it leads to.',
  ),
  'files.not-read': entry<{ way: string; problem: string }>(
    'here',
    (e) => `${e.way} cannot be read: ${e.problem}.`,
    () => 'It is tried again by itself. Bring the folder back, or give the engine the right to it.',
  ),
  'files.long-line': entry<{ file: string; most: string }>(
    'entry',
    (e) => `A line of ${e.file} is longer than ${e.most} and was passed over.`,
    () => 'Look whether the file has lines at all, and whether quotation marks in it are closed.',
  ),
  'files.not-written': entry<{ way: string; problem: string }>(
    'here',
    (e) => `${e.way} cannot be written: ${e.problem}.`,
    () =>
      'What is kept is written as soon as that is possible. Free the disk, close whatever holds the file, or give the engine the right to it.',
  ),
} as const
