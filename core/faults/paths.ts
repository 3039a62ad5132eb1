import { duration } from '../text/duration'
import { entry } from './entry'

/** What a check of a path finds that nothing else says. */
export const pathFaults = {
  'point.implausible': entry<{ path: string; reads: string; other: string | null }>(
    'entry',
    (e) => `“${e.path}” reads ${e.reads}, which is hardly what the device means.`,
    (e) =>
      e.other
        ? `Read it as ${e.other}, and compare with what the device itself shows.`
        : 'Compare with what the device itself shows, and with its list of registers.',
  ),
  'point.still': entry<{ path: string; value: string; ms: number }>(
    'device',
    (e) => `“${e.path}” has had ${e.value} for ${duration(e.ms)} to the last digit, although it is read all the time.`,
    () => 'Look whether the device measures: whatever is measured moves in its last digits. A setting may stand still.',
  ),
  'tag.gone': entry<{ path: string; reader: string }>(
    'entry',
    (e) => `“${e.reader}” reads “${e.path}”, and there is no such tag.`,
    (e) => `Make the tag “${e.path}” again, or choose another one in “${e.reader}”.`,
  ),
  'tag.not-good': entry<{ path: string; quality: string }>(
    'here',
    (e) => `“${e.path}” is ${e.quality}.`,
    () => 'Open the tag: how its value is made says at which stage it becomes so.',
  ),
  'bridge.bad-source': entry<{ path: string; quality: string }>(
    'here',
    (e) => `“${e.path}” is ${e.quality}: as long as that is so, it sets nothing off.`,
    (e) => `See how far “${e.path}” comes: walk its path.`,
  ),
}
