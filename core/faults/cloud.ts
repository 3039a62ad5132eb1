import { duration } from '../text/duration'
import { entry } from './entry'

/** Platforms that take the model of the site, and values. */
export const cloudFaults = {
  'cloud.token': entry<{ place: string; status: number; words: string }>(
    'device',
    (e) => `${e.place} does not let us in (status ${e.status}${e.words === '' ? '' : `: ${e.words}`}).`,
    () =>
      'The token may have ended. Have a new one given out there, and type it in the settings of the outlet. Values are kept until then.',
  ),
  'cloud.throttled': entry<{ place: string }>(
    'device',
    (e) => `${e.place} wants to be left alone for a while: more comes than it takes.`,
    () => 'It is sent more by itself when that time is over. If it goes on, send values less often, or have the limit raised there.',
  ),
  'cloud.too-large': entry<{ place: string }>(
    'device',
    (e) => `${e.place} takes no message of this size.`,
    () => 'Smaller ones are sent by themselves. Choose fewer values a message in the settings of the outlet.',
  ),
  'cloud.answer': entry<{ place: string; problem: string }>(
    'device',
    (e) => `What ${e.place} answers cannot be read: ${e.problem}.`,
    () => 'Check the address: it may be that of another service, or of another version of its interface.',
  ),
  'cloud.silent': entry<{ place: string; ms: number }>(
    'device',
    (e) => `${e.place} did not answer a request within ${e.ms.toLocaleString('en-GB')} ms.`,
    () => 'It is tried again by itself. Check the topics: somebody there has to listen to them, and may answer on the response topic only.',
  ),
  'cloud.clock': entry<{ place: string; ahead: number }>(
    'device',
    (e) => `The clock of ${e.place} is ${duration(Math.abs(e.ahead))} ${e.ahead > 0 ? 'ahead of' : 'behind'} the one of this machine.`,
    () => 'Compare both with a third. Values are sent with the time of their source; a platform may refuse what lies in its future.',
  ),
  'cloud.some-refused': entry<{ count: number; path: string; why: string }>(
    'device',
    (e) => `It refused ${e.count.toLocaleString('en-GB')} ${e.count === 1 ? 'value' : 'values'}, last of ${e.path}: ${e.why}`,
    () => 'Compare type and unit of the tag with what the platform has. What it refuses for good is not sent again.',
  ),
  'cloud.waits': entry<{ count: number; why: string }>(
    'device',
    (e) => `It does not take ${e.count.toLocaleString('en-GB')} values yet: ${e.why}`,
    () => 'They are kept and sent again by themselves.',
  ),
  'cloud.full': entry<{ lost: number; most: number }>(
    'here',
    (e) => `More waits than ${e.most} MB: the oldest ${e.lost.toLocaleString('en-GB')} values were dropped.`,
    () => 'Let the platform be put in order, or let more be kept in the settings of the outlet.',
  ),
  'cloud.unreadable': entry(
    'here',
    () => 'A part of what waits for the platform could not be read from disk, and is lost.',
    () => 'Look at the disk of this machine. Everything else goes on.',
  ),
  'cloud.plan-changed': entry(
    'here',
    () => 'The plan is another one than the one you saw, and nothing was changed.',
    () => 'Look at it as it is now, and carry it out then.',
  ),
  'cloud.model-refused': entry<{ count: number; name: string; why: string }>(
    'device',
    (e) => `It refused ${e.count} ${e.count === 1 ? 'change' : 'changes'} of its model, first ${e.name}: ${e.why}`,
    () => 'Open the outlet and look at the plan: what was refused stands there with the reason.',
  ),
} as const
