import { entry } from './entry'

/** Displays and wall screens. */
export const displayFaults = {
  'display.no-wall': entry<Record<string, never>>(
    'entry',
    () => 'This link shows nothing: it has ended, was taken back, or is not whole.',
    () => 'Have another one made, on the display’s page under “Wall screens”.',
  ),
  'display.no-equipment': entry<{ path: string; name: string }>(
    'entry',
    (e) => `${e.path} is no equipment that “${e.name}” is shown for.`,
    () => 'Choose equipment of its class, or nothing.',
  ),
} as const
