import { entry } from './entry'

/** The configuration as text. */
export const textFaults = {
  'text.unreadable': entry<{ name: string; line: number; column: number; problem: string }>(
    'entry',
    (e) => `“${e.name}” cannot be read as YAML, line ${e.line}, column ${e.column}: ${e.problem}`,
    () => 'Nothing was changed. Mend it there and try again.',
  ),
  'text.misfits': entry<{ name: string; count: number }>(
    'entry',
    (e) => `${e.count === 1 ? 'One place' : `${e.count.toLocaleString('en-GB')} places`} in “${e.name}” cannot be as written.`,
    () => 'Nothing was changed. Mend what is listed and try again.',
  ),
  'text.secrets': entry<{ name: string; secrets: string[] }>(
    'entry',
    (e) => `“${e.name}” needs ${e.secrets.length === 1 ? 'a secret' : 'secrets'} that the site does not hold: ${e.secrets.join(', ')}.`,
    () => 'Nothing was changed. Set them in the environment, or apply it where they can be typed.',
  ),
  'text.stale': entry<{ name: string }>(
    'entry',
    (e) => `Nothing of “${e.name}” was applied: somebody changed the site after the plan was made.`,
    () => 'Compare it again, then apply it.',
  ),
} as const
