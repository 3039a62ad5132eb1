import { entry } from './entry'

/** What programs that ask us over HTTP are told. */
export const endpointFaults = {
  'serve.unknown-path': entry<{ method: string; path: string }>(
    'consumer',
    (e) => `There is nothing to ${e.method} at ${e.path}.`,
    () => 'Look at /openapi.json or /docs of this outlet for what there is.',
  ),
  'serve.method': entry<{ method: string; path: string; allowed: string }>(
    'consumer',
    (e) => `${e.path} takes no ${e.method}.`,
    (e) => `Ask it by ${e.allowed}.`,
  ),
  'serve.sign-in': entry<{ problem: string }>(
    'consumer',
    (e) => `Nobody is let in this way: ${e.problem}.`,
    () => 'Send name and token that whoever set up this outlet gave out (Authorization: Bearer or Basic).',
  ),
  'serve.not-allowed': entry<{ who: string; what: string }>(
    'consumer',
    (e) => `${e.who} may not ${e.what}.`,
    () => 'Have the rights of this name changed at the outlet.',
  ),
  'serve.no-tag': entry<{ path: string }>(
    'consumer',
    (e) => `There is no tag ${e.path} here.`,
    () => 'Compare its path with the list at /tags.',
  ),
  'serve.parameters': entry<{ problems: string }>(
    'consumer',
    (e) => `The request is not as it has to be: ${e.problems}.`,
    () => 'Correct it by the description at /openapi.json.',
  ),
  'serve.body': entry<{ problem: string }>(
    'consumer',
    (e) => `The body cannot be read: ${e.problem}.`,
    () => 'Send JSON, with Content-Type: application/json.',
  ),
  'serve.too-large': entry<{ most: number }>(
    'consumer',
    (e) => `The body is larger than ${e.most} kB.`,
    () => 'Send less at once, or have the limit of the outlet raised.',
  ),
  'serve.too-often': entry<{ who: string; most: number; seconds: number }>(
    'consumer',
    (e) => `${e.who} asks more often than ${e.most} times a minute.`,
    (e) => `Ask again in ${e.seconds} s, ask for many tags at once, or follow /changes.`,
  ),
  'serve.busy': entry<{ most: number }>(
    'here',
    (e) => `${e.most} requests are under way already.`,
    () => 'Ask again in a moment.',
  ),
  'serve.nothing-found': entry<{ what: string }>(
    'consumer',
    (e) => `Nothing was found for ${e.what}.`,
    () => 'Check the parameters.',
  ),
  'serve.answer': entry<{ endpoint: string; problem: string }>(
    'here',
    (e) => `The answer of ${e.endpoint} could not be made: ${e.problem}.`,
    () => 'Correct the endpoint in the settings of the outlet.',
  ),
  'serve.nobody': entry<{ topic: string }>(
    'here',
    (e) => `No bridge listens to ${e.topic}; nothing was kept.`,
    () => 'Have a bridge made that is set off by a client of this outlet, or switched on.',
  ),
  'serve.dropped': entry<Record<string, never>>(
    'here',
    () => 'It was given up: the receiver is away, and its bridge keeps nothing for it.',
    () => 'Send it again later, or have the bridge keep what it cannot deliver.',
  ),
  'serve.no-history': entry<{ path: string; problem: string }>(
    'here',
    (e) => `What was recorded of ${e.path} could not be read: ${e.problem}.`,
    () => 'Ask again later, for a shorter span, or see whether the tag is recorded.',
  ),
  'serve.late': entry<{ ms: number }>(
    'here',
    (e) => `It was not done within ${e.ms.toLocaleString('en-GB')} ms.`,
    () => 'Ask again later; the outlet’s page tells what is slow.',
  ),
} as const
