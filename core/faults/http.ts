import { entry } from './entry'

/** Web APIs that are asked. */
export const httpFaults = {
  'http.refused': entry<{ place: string; status: number; words: string }>(
    'device',
    (e) => `${e.place} answered with status ${e.status}: ${e.words}.`,
    (e) =>
      e.status === 401 || e.status === 403
        ? 'Check how the link signs in, and that this account may ask for it.'
        : e.status === 404
          ? 'Compare path and parameters with the description of the API.'
          : 'Compare the call with the description of the API.',
  ),
  'http.busy': entry<{ place: string; status: number; words: string; after: string }>(
    'device',
    (e) => `${e.place} answered with status ${e.status}: ${e.words}.`,
    (e) => `It is asked again ${e.after}. If it goes on, ask less often or talk to the owner of the API.`,
  ),
  'http.waits': entry<{ place: string; ms: number }>(
    'here',
    (e) =>
      `A call to ${e.place} came to no turn within ${e.ms.toLocaleString('en-GB')} ms: as many as may be are under way or have been made.`,
    () => 'It is made later. If it goes on, let more calls out at once or a minute in the settings of the link, or ask less often.',
  ),
  'http.silent': entry<{ place: string; ms: number }>(
    'device',
    (e) => `${e.place} did not answer within ${e.ms.toLocaleString('en-GB')} ms.`,
    () => 'It is asked again by itself. A service that is slow by nature wants more time in the settings of the link.',
  ),
  'http.tls': entry<{ host: string; port: number; problem: string }>(
    'device',
    (e) => `No encrypted connection to ${e.host}:${e.port} came about: ${e.problem}.`,
    () => 'Have the certificate there set right, or give the certificate of its authority here.',
  ),
  'http.not-http': entry<{ host: string; port: number; problem: string }>(
    'device',
    (e) => `What answers on ${e.host}:${e.port} speaks no HTTP: ${e.problem}.`,
    () => 'Check the port, and whether the address begins with http:// or https://.',
  ),
  'http.too-large': entry<{ place: string; most: number }>(
    'device',
    (e) => `The answer of ${e.place} is larger than ${e.most} MB, and was not read to its end.`,
    () => 'Ask for less with a parameter, or let larger answers in in the settings of the link.',
  ),
  'http.elsewhere': entry<{ place: string; to: string }>(
    'device',
    (e) => `${e.place} sends us to ${e.to}, which is another host.`,
    () => 'Nothing was sent there. If it is right, give its address as the base address of the link.',
  ),
  'http.broken': entry<{ place: string; problem: string }>(
    'device',
    (e) => `The answer of ${e.place} broke off: ${e.problem}.`,
    () => 'It is asked again by itself. If it goes on, talk to the owner of the API.',
  ),
  'http.unfit': entry<{ call: string; problem: string }>(
    'device',
    (e) => `The answer to ${e.call} is no value of this tag: ${e.problem}.`,
    () => 'Compare the answer with path and type of the tag.',
  ),
  'http.call': entry<{ call: string; problem: string }>(
    'entry',
    (e) => `The call ${e.call} could not be made: ${e.problem}.`,
    () => 'Correct the operation in the settings of the link, or what is given for its parameters.',
  ),
  'http.token': entry<{ place: string; problem: string }>(
    'device',
    (e) => `${e.place} gave no token: ${e.problem}.`,
    () => 'Check where tokens are given out, id and secret of our client, and what is wanted; their owner knows it.',
  ),
  'http.proxy': entry<{ host: string; port: number; problem: string }>(
    'network',
    (e) => `The proxy ${e.host}:${e.port} lets nothing through: ${e.problem}.`,
    () => 'Check its address, its name and password, and whether it lets this machine through to there.',
  ),
  'http.form': entry<{ call: string; differences: string }>(
    'device',
    (e) => `The answer to ${e.call} is of another form than its example. Missing or other: ${e.differences}.`,
    () => 'Compare it with the description of the API; if this is how it is now, keep a new example and correct the paths of tags.',
  ),
  'http.description': entry<{ place: string; problem: string }>(
    'device',
    (e) => `${e.place} is no description of a web API that can be read: ${e.problem}.`,
    () => 'Give the address or the text of a description in OpenAPI 3.0 or 3.1, or make the operations by hand.',
  ),
} as const
