import { entry } from './entry'

/** Folders and files on the engine's machine. */
export const filesFaults = {
  'files.no-root': entry<{ root: string; allowed: string }>(
    'here',
    (e) => `${e.root || 'A folder'} is not one of the folders that were allowed on this machine.`,
    (e) => `Allowed are: ${e.allowed || 'none'}. An administrator allows others where the engine is started (CONDUIT_FILE_ROOTS).`,
  ),
  'files.leaves': entry<{ way: string }>(
    'here',
    (e) => `${e.way} leads out of the allowed folder.`,
    () => 'A link in the file system leads elsewhere. Remove it, or allow the folder that it leads to.',
  ),
  'files.not-written': entry<{ way: string; problem: string }>(
    'here',
    (e) => `${e.way} cannot be written: ${e.problem}.`,
    () =>
      'What is kept is written as soon as that is possible. Free the disk, close whatever holds the file, or give the engine the right to it.',
  ),
} as const
