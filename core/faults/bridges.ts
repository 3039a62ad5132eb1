import { entry } from './entry'

/** Bridges: what they take, shape and send. */
export const bridgeFaults = {
  'bridge.no-input': entry<{ input: string; problem: string }>(
    'device',
    (e) => `Input “${e.input}” has nothing: ${e.problem}.`,
    () => 'Look at where it comes from, or choose what the bridge does without it.',
  ),
  'bridge.field': entry<{ field: string; problem: string }>(
    'entry',
    (e) => `Nothing came of ${e.field}: ${e.problem}.`,
    () => 'Correct what it comes from in the cross-connections.',
  ),
  'bridge.fit': entry<{ field: string; problem: string }>(
    'entry',
    (e) => `What comes from here does not fit into ${e.field}: ${e.problem}.`,
    () => 'Correct what it comes from, or the type of the field there. What was refused lies aside and can be sent again.',
  ),
  'bridge.no-tag': entry<{ path: string }>(
    'entry',
    (e) => `There is no tag ${e.path}.`,
    () => 'Correct the path, or make the tag.',
  ),
  'bridge.no-receiver': entry<{ link: string; what: string }>(
    'entry',
    (e) => `${e.link} takes no ${e.what}.`,
    () => 'Choose a link that does.',
  ),
  'bridge.loop': entry<{ name: string; by: string }>(
    'entry',
    (e) => `“${e.name}” set itself off again and again by ${e.by}, and was stopped.`,
    () =>
      'Break the circle: let another tag or topic set it off, or send elsewhere. It starts again when it is changed, or switched off and on.',
  ),
  'bridge.off': entry<{ name: string }>(
    'entry',
    (e) => `${e.name ? `“${e.name}”` : 'This bridge'} is switched off.`,
    () => 'Switch it on first.',
  ),
  'bridge.no-record': entry<object>(
    'entry',
    () => 'This record does not lie aside any more, or was made for other fields.',
    () => 'Look at the list again; somebody may have sent or dropped it.',
  ),
  'bridge.full': entry<{ count: number; limit: string }>(
    'here',
    (e) => `${e.count.toLocaleString('en-GB')} records were dropped: ${e.limit}.`,
    () => 'Bring the receiver back, or let more be kept.',
  ),
  'bridge.spool': entry<{ problem: string }>(
    'here',
    (e) => `What is to be kept cannot be written to the disk of the engine: ${e.problem}.`,
    () => 'Free the disk or give the engine the right to its folder. Until then records are kept in memory only.',
  ),
  'bridge.waits': entry<{ name: string; waiting: number }>(
    'entry',
    (e) =>
      `${e.waiting.toLocaleString('en-GB')} records wait in “${e.name}” on the disk of the machine that runs it: they would not go along.`,
    () => 'Let them be delivered, or settle what lies aside; then let it run elsewhere.',
  ),
} as const
