import { entry, type Peer } from './entry'

/** OPC UA, as a client. */
export const opcuaFaults = {
  'opcua.not-opcua': entry<Peer>(
    'device',
    (e) => `What answers on ${e.host}:${e.port} does not speak OPC UA.`,
    (e) => `Port ${e.port} belongs to another service there. Look up the port of its OPC UA server; the usual one is 4840.`,
  ),
  'opcua.nobody-dialled': entry<Peer & { serverUri: string; ms: number; others: number }>(
    'device',
    (e) => `${e.serverUri || 'A server'} did not dial port ${e.port} of this machine within ${Math.round(e.ms / 1000)} s.`,
    (e) =>
      e.others > 0
        ? 'Others do dial here (see the evidence): if one of them is the server that is meant, enter its application URI.'
        : `On the server, have it dial this machine (reverse connection) at port ${e.port}, and let what lies between pass that. It shows here once it dials; ss -tn on the server tells whether it tries.`,
  ),
  'opcua.not-taken-up': entry<Peer>(
    'consumer',
    (e) => `The client at ${e.host}:${e.port} takes our connection and closes it before it says a word.`,
    (e) =>
      `It awaits another server, or another program listens at ${e.port}: there, enter our application URI (Site › Certificates) as that of the server that is awaited.`,
  ),
  'opcua.silent-hello': entry<Peer & { ms: number }>(
    'device',
    (e) => `${e.host}:${e.port} takes the connection and says nothing within ${e.ms} ms.`,
    () => 'Another service may listen there, or the server is busy starting. Check the port, then “answers within” of this link.',
  ),
  'opcua.hello-refused': entry<Peer & { status: string; words: string }>(
    'device',
    (e) => `The server at ${e.host}:${e.port} refuses the greeting: ${e.words}.`,
    (e) =>
      e.status === 'BadTcpEndpointUrlInvalid'
        ? 'It does not know the address by which we call it. Type the full address as its own settings show it.'
        : 'Its own log says more; the status is in the evidence.',
  ),
  'opcua.no-endpoint': entry<{ policy: string; mode: string; offered: string }>(
    'entry',
    (e) => `The server does not offer ${e.policy}, ${e.mode}.`,
    (e) => (e.offered ? `It offers ${e.offered}. Choose one of these.` : 'It offers no endpoint at all; look at its security settings.'),
  ),
  'opcua.endpoints-refused': entry<{ status: string; words: string }>(
    'device',
    (e) => `The server does not tell which endpoints it offers: ${e.words}.`,
    () => 'Its own settings or log say why; often an unsecured look at the endpoints is switched off there.',
  ),
  'opcua.we-are-refused': entry<{ ours: string; fingerprint: string; status: string }>(
    'device',
    () => 'The server refuses our certificate.',
    (e) =>
      `On the server open its list of refused or waiting certificates, find “${e.ours}” with fingerprint ${e.fingerprint}, and trust it. This link keeps trying and flows by itself then.`,
  ),
  'opcua.our-clock': entry<{ status: string }>(
    'device',
    () => 'The server holds our certificate to be out of its time.',
    () => 'Compare the clock of the server with this machine’s. If both are right, our certificate has expired: renew it under Site.',
  ),
  'opcua.security-failed': entry<{ status: string }>(
    'device',
    () => 'The server ends the secure connection without saying why.',
    () =>
      'Nearly always it does not trust our certificate: look in its list of refused certificates first. Else its policy or key length differs.',
  ),
  'opcua.password-in-clear': entry<{ user: string }>(
    'entry',
    (e) => `The password of ${e.user} would travel in clear, readable for everybody on the way; it was not sent.`,
    () => 'Choose a way in that encrypts. If the server offers none, and the network is yours alone, allow it beside the password.',
  ),
  'opcua.user-refused': entry<{ user: string; status: string }>(
    'device',
    (e) => `The server does not let ${e.user} in.`,
    () => 'Check name and password, and on the server that this user exists and may connect.',
  ),
  'opcua.identity-not-offered': entry<{ wanted: string; offered: string }>(
    'entry',
    (e) => `This endpoint takes no ${e.wanted}.`,
    (e) => `It takes ${e.offered || 'nothing that it says'}. Sign in that way, or choose another endpoint.`,
  ),
  'opcua.identity-unreadable': entry(
    'here',
    () => 'The secret of this link cannot be opened.',
    () => 'The key in the state folder is another one than when it was typed. Type the secret again.',
  ),
  'opcua.too-many': entry<{ what: string; status: string }>(
    'device',
    (e) => `The server allows no more ${e.what}.`,
    () => 'Close other clients of it, or raise the limit there. It is tried again by itself.',
  ),
  'opcua.refused': entry<{ what: string; status: string; words: string }>(
    'device',
    (e) => `The server refuses to ${e.what}: ${e.words}.`,
    () => 'The status code in the evidence is the server’s own; its log says more.',
  ),
  'opcua.late': entry<{ what: string; ms: number }>(
    'device',
    (e) => `The server did not ${e.what} within ${e.ms} ms.`,
    () => 'The connection is open, so the server is busy or hangs. A slow one needs a longer “answers within”.',
  ),
  'opcua.connection-lost': entry<Peer>(
    'network',
    (e) => `The connection to ${e.host}:${e.port} broke.`,
    () => 'It is tried again by itself; the session and its items are taken up where they were, if the server still has them.',
  ),
  'opcua.not-running': entry<{ state: string }>(
    'device',
    (e) => `The server says that it is ${e.state}.`,
    () => 'Start it on the device, or wait until it has started.',
  ),
  'opcua.no-namespace': entry<{ uri: string }>(
    'device',
    (e) => `The server has no namespace ${e.uri}.`,
    () => 'Another project may be loaded there, or the tag belongs to another server. Browse it to see what it has.',
  ),
  'opcua.no-node': entry<{ node: string; status: string }>(
    'device',
    (e) => `The server has no node ${e.node}.`,
    () => 'Browse to the node again; after a change of the program it may go by another NodeId.',
  ),
  'opcua.no-member': entry<{ member: string; has: string }>(
    'entry',
    (e) => `The value has no member “${e.member}”.`,
    (e) => (e.has ? `It has ${e.has}.` : 'It is no structure and no array of that length.'),
  ),
  'opcua.no-deadband': entry<{ path: string; status: string }>(
    'device',
    (e) => `The server takes no deadband of this kind: ${e.path} is notified at every change.`,
    () => 'One in percent needs a range at the node; an absolute one is taken by more servers. A longer interval spares it as well.',
  ),
  'opcua.unfit': entry<{ told: string; type: string; theirs: string }>(
    'entry',
    (e) => `The server tells ${e.told}, which ${e.type} cannot hold exactly.`,
    (e) => `Give the tag the type that the server uses, ${e.theirs}; then nothing is lost.`,
  ),
  'opcua.silent-publish': entry<{ ms: number; instead: boolean; silent: number; all: number }>(
    'network',
    (e) =>
      `Reads work, but nothing has been published for ${Math.round(e.ms / 1000)} s${e.silent < e.all ? ` in ${e.silent} of ${e.all} subscriptions` : ''}.`,
    (e) =>
      `Something on the way, or the server itself, holds notifications back; look at a firewall that inspects OPC UA, and at the server’s subscription settings.${e.instead ? ' Meanwhile values are read instead.' : ''}`,
  ),
  'opcua.namespaces-changed': entry(
    'device',
    () => 'The server came back with its namespaces in another order.',
    () => 'Tags are kept by the URI of their namespace, so they find their nodes again; nothing to do.',
  ),
} as const
