import { entry, type Peer } from './entry'

/** Controllers over ISO-on-TCP (RFC 1006). */
export const isoTcpFaults = {
  'iso.refused-place': entry<Peer & { place: string; how: string }>(
    'device',
    (e) => `The controller at ${e.host}:${e.port} takes no connection at ${e.place}: ${e.how}.`,
    () =>
      'Check rack and slot, or the TSAP. If they are right, all of its connections may be taken: end one of another program, or choose another kind of connection.',
  ),
  'iso.no-confirm': entry<Peer & { ms: number }>(
    'device',
    (e) => `${e.host}:${e.port} is open, but did not take the transport connection within ${e.ms} ms.`,
    () => 'Something listens there that does not answer ISO-on-TCP. Check address and port; the usual one is 102.',
  ),
  'iso.not-iso': entry<Peer & { service: string }>(
    'device',
    (e) => `What answers on ${e.host}:${e.port} is ${e.service}, not ISO-on-TCP.`,
    () => 'Another service listens on this port. The usual one of controllers is 102.',
  ),
  'iso.negotiation': entry<Peer & { problem: string }>(
    'device',
    (e) => `The controller at ${e.host}:${e.port} did not agree on the size of requests: ${e.problem}.`,
    () =>
      'Access from outside may be switched off in the controller, or the connection goes to a module that is no controller: check the slot.',
  ),
  'iso.silent': entry<Peer & { ms: number }>(
    'device',
    (e) => `The controller at ${e.host}:${e.port} did not answer within ${e.ms} ms.`,
    () =>
      'The connection is open, so it is busy or has stopped: look at its load and its state. A slow one needs a longer “answers within”.',
  ),
  'iso.dead-connection': entry<Peer & { requests: number }>(
    'device',
    (e) => `${e.requests} requests in a row to ${e.host}:${e.port} got no answer; the connection was given up.`,
    () => 'It is opened anew by itself. If it goes on, look at the controller and what lies between.',
  ),
  'iso.malformed': entry<Peer & { problem: string }>(
    'device',
    (e) => `What ${e.host}:${e.port} sent cannot be read: ${e.problem}.`,
    () =>
      'The connection is opened anew. If it goes on, what listens there speaks another protocol, or a device between changes what passes.',
  ),
  'iso.ended': entry<Peer & { why: string }>(
    'device',
    (e) => `The controller at ${e.host}:${e.port} ended the connection: ${e.why}.`,
    () => 'It is opened anew by itself. A controller whose program is being loaded, or that takes another one instead, does so.',
  ),
  'iso.request': entry<{ code: string; words: string; next: string }>(
    'device',
    (e) => `The controller refused the request with ${e.code}: ${e.words}.`,
    (e) => e.next,
  ),
  'iso.piece': entry<{ place: string; code: string; words: string; next: string }>(
    'device',
    (e) => `The controller refuses ${e.place} with ${e.code}: ${e.words}.`,
    (e) => e.next,
  ),
} as const
