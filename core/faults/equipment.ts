import { counted } from '../text/counted'
import { entry } from './entry'

/** Equipment and its classes. */
export const equipmentFaults = {
  'equipment.class-in-use': entry<{ name: string; count: number; made: string[] }>(
    'entry',
    (e) =>
      `The class “${e.name}” is in use: ${[
        e.count > 0 && `${counted(e.count, 'piece')} of equipment ${e.count === 1 ? 'has' : 'have'} it`,
        e.made.length > 0 && `${e.made.join(', ')} ${e.made.length === 1 ? 'is' : 'are'} made from it`,
      ]
        .filter(Boolean)
        .join(', and ')}.`,
    () => 'Give those another class first, or remove them.',
  ),
  'equipment.owned': entry<{ path: string }>(
    'entry',
    (e) => `${e.path} is a property of equipment. It goes where its equipment goes, and nothing was changed.`,
    () => 'Change or remove the equipment, or the property in its class.',
  ),
  'equipment.no-input': entry<{ path: string; input: string }>(
    'entry',
    (e) => `${e.path} is bound to ${e.input}, and no tag has this path.`,
    () => 'Bind another tag to it, or make that one.',
  ),
  'equipment.input': entry<{ path: string; input: string; problem: string }>(
    'entry',
    (e) => `${e.path} cannot take the values of ${e.input}: ${e.problem}.`,
    () => 'Bind a tag whose type and unit go with the property, or change those in its class.',
  ),
  'equipment.no-history': entry<{ path: string; problem: string }>(
    'here',
    (e) => `What was recorded for ${e.path} cannot be looked up now: ${e.problem}`,
    () => 'It is asked for again by itself. Until then the rollup says what it knows from this run.',
  ),
  'equipment.table': entry<{ line: number; problem: string }>(
    'entry',
    (e) => `The table of equipment cannot be read: line ${e.line}: ${e.problem}`,
    () => 'Mend that line. The table of the equipment that is there, which can be saved on the page of equipment, shows the form.',
  ),
  'equipment.plan-changed': entry<Record<string, never>>(
    'entry',
    () => 'Something changed since this plan was made, and it would do something else now. Nothing was done.',
    () => 'Look at the plan again, and say so again.',
  ),
} as const
