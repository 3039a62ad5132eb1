/**
 * Every fault that a person can meet, in one place: what failed, whose side it is on and what to
 * do. The evidence is filled in where it is known. Texts are sentences; the code is for support.
 */
export type Side = 'entry' | 'here' | 'network' | 'device' | 'consumer'

export interface Fault {
  code: FaultCode
  what: string
  side: Side
  evidence: string
  next: string
}

interface Entry<E> {
  side: Side
  what: (e: E) => string
  next: (e: E) => string
}

const entry = <E = Record<string, never>>(side: Side, what: Entry<E>['what'], next: Entry<E>['next']): Entry<E> => ({
  side,
  what,
  next,
})

interface Peer {
  host: string
  port: number
}

const day = (time: number) => new Date(time).toISOString().slice(0, 10)

const catalogue = {
  'entry.invalid': entry<{ count: number }>(
    'entry',
    (e) => `${e.count === 1 ? 'One field needs' : `${e.count} fields need`} another value.`,
    () => 'Nothing was saved. Correct the marked fields and save again.',
  ),
  'entry.taken': entry<{ thing: string; name: string }>(
    'entry',
    (e) => `There is a ${e.thing} called “${e.name}” already.`,
    () => 'Choose another name; names tell things apart everywhere else.',
  ),
  'entry.edited': entry<{ thing: string; name: string; who: string; at: string }>(
    'entry',
    (e) => `${e.who} saved ${e.thing} “${e.name}” at ${e.at}, after you opened it.`,
    () => 'Nothing of yours is lost. Look at their version, then save yours over it or discard yours.',
  ),
  'entry.gone': entry<{ thing: string; id: number }>(
    'entry',
    (e) => `The ${e.thing} ${e.id} is not there any more.`,
    () => 'Somebody removed it. The revisions on Site can bring it back.',
  ),
  'entry.in-use': entry<{ name: string; tags: number }>(
    'entry',
    (e) => `${e.tags} ${e.tags === 1 ? 'tag reads' : 'tags read'} through “${e.name}”.`,
    () => 'Remove it together with its tags, or move the tags to another link first.',
  ),
  'entry.unreadable': entry<{ problem: string }>(
    'entry',
    (e) => `The request could not be read: ${e.problem}`,
    () => 'Send JSON as the API description shows.',
  ),
  'entry.cross-site': entry<{ origin: string }>(
    'entry',
    (e) => `The request came from a page of ${e.origin}, not from this application.`,
    () => 'Open the application by its own address.',
  ),
  'entry.cannot-take-back': entry<{ number: number; reason: string }>(
    'entry',
    (e) => `Revision ${e.number} cannot be taken back: ${e.reason}`,
    () => 'Take back the later revision of the same thing first, or change it by hand.',
  ),
  'access.sign-in': entry(
    'entry',
    () => 'This needs somebody who is signed in.',
    () => 'Sign in; a session ends after a while without use.',
  ),
  'access.refused': entry<{ role: string; needed: string }>(
    'entry',
    (e) => `The role “${e.role}” does not allow this; it takes “${e.needed}”.`,
    () => 'Somebody who administers this site can give you another role.',
  ),
  'access.wrong': entry(
    'entry',
    () => 'Name and password do not fit together.',
    () => 'Check both; capitals count in the password. Somebody who administers this site can give you a new one.',
  ),
  'access.wait': entry<{ seconds: number }>(
    'entry',
    (e) => `Too many attempts; the next one is taken in ${e.seconds} s.`,
    () => 'Wait that long, then try again.',
  ),
  'access.change-password': entry(
    'entry',
    () => 'This password was given to be used once.',
    () => 'Choose one of your own; then everything else is open to you.',
  ),
  'access.last-administrator': entry<{ name: string }>(
    'entry',
    (e) => `“${e.name}” is the last who administers this site.`,
    () => 'Give that role to somebody else first; nothing was changed.',
  ),
  'engine.away': entry(
    'here',
    () => 'The engine does not answer.',
    () => 'It is restarted by itself; values come back then. If it stays away, read its log in the state folder.',
  ),
  'web.away': entry(
    'here',
    () => 'The web application does not answer.',
    () => 'It is restarted by itself; nothing typed here is lost. Links and outlets run on without it.',
  ),
  'database.away': entry(
    'here',
    () => 'The database does not answer.',
    () => 'Links and outlets go on with the last configuration. Changes can be saved once it is back.',
  ),
  'ours.unexpected': entry<{ problem: string }>(
    'here',
    (e) => `Something went wrong inside Keen Conduit: ${e.problem}`,
    () => 'Nothing was saved. Try again; if it stays, pass on the journal with the time of this message.',
  ),
  'name.unknown': entry<Peer>(
    'network',
    (e) => `No address is known for “${e.host}”.`,
    () => 'Check the spelling, or type the numeric address. If it is right, this machine’s name service does not know it.',
  ),
  'tcp.refused': entry<Peer>(
    'device',
    (e) => `${e.host} is there and refuses port ${e.port}.`,
    (e) =>
      `Nothing listens on port ${e.port} there, or its firewall says no. Check the port, and that the service is switched on in the device.`,
  ),
  'tcp.no-answer': entry<Peer & { ms: number }>(
    'network',
    (e) => `${e.host} does not answer on port ${e.port} within ${e.ms} ms.`,
    () =>
      'Switched off, another address, or a firewall that swallows it: not measured from here. Try it from a machine in the same segment to tell which.',
  ),
  'tcp.unreachable': entry<Peer>(
    'network',
    (e) => `This machine has no route to ${e.host}.`,
    () => 'Check the address and the network interface chosen for the link.',
  ),
  'tcp.local-address': entry<{ address: string }>(
    'here',
    (e) => `This machine has no interface with the address ${e.address}.`,
    () => 'Choose one of its own addresses, or leave the interface open.',
  ),
  'tcp.closed': entry<Peer>(
    'device',
    (e) => `${e.host}:${e.port} closed the connection.`,
    () => 'Often the device allows fewer connections than are open. Close other clients, or lower “connections” on the link.',
  ),
  'modbus.silent': entry<{ unit: number; ms: number }>(
    'device',
    (e) => `Unit ${e.unit} did not reply within ${e.ms} ms.`,
    (e) =>
      `The connection is open, so it is the unit: check that ${e.unit} is its number, and its power and wiring behind the gateway. A slow one needs a longer “answers within”.`,
  ),
  'modbus.dead-connection': entry<Peer & { requests: number }>(
    'device',
    (e) => `${e.requests} requests in a row to ${e.host}:${e.port} got no reply at all.`,
    () => 'The connection is opened anew by itself. If it goes on, the unit behind it is off, or the gateway has lost it.',
  ),
  'modbus.exception': entry<{ unit: number; code: number; name: string; words: string; next: string }>(
    'device',
    (e) => `Unit ${e.unit} answered with exception ${e.code}, ${e.name}: ${e.words}.`,
    (e) => e.next,
  ),
  'modbus.malformed': entry<{ unit: number; problem: string }>(
    'device',
    (e) => `What unit ${e.unit} sent is not Modbus TCP: ${e.problem}.`,
    () => 'Another service may listen on this port, or a serial gateway is set to pass raw RTU frames through.',
  ),
  'opcua.not-opcua': entry<Peer>(
    'device',
    (e) => `What answers on ${e.host}:${e.port} does not speak OPC UA.`,
    (e) => `Port ${e.port} belongs to another service there. Look up the port of its OPC UA server; the usual one is 4840.`,
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
  'certificate.unknown': entry<{ name: string }>(
    'here',
    (e) => `Nobody here has decided about the certificate of “${e.name}”.`,
    () => 'Compare its fingerprint with the one on the device, then trust or refuse it.',
  ),
  'certificate.refused': entry<{ name: string }>(
    'here',
    (e) => `The certificate of “${e.name}” is refused here.`,
    () => 'If that was a mistake, trust it under Site, Certificates.',
  ),
  'certificate.expired': entry<{ name: string; until: number; ours: boolean }>(
    'device',
    (e) => `The certificate of “${e.name}” expired on ${day(e.until)}.`,
    (e) =>
      e.ours
        ? 'Take one that is still valid.'
        : 'Have a new one made on that device, or trust this one although it is expired. If its date looks right, check the clock of this machine.',
  ),
  'certificate.not-yet': entry<{ name: string; from: number; now: number }>(
    'device',
    (e) => `The certificate of “${e.name}” is valid from ${day(e.from)} on, and here it is ${day(e.now)}.`,
    () => 'One of the two clocks is wrong. Set it, have the certificate made anew, or trust it nevertheless.',
  ),
  'certificate.host': entry<{ name: string; hosts: string; dialled: string }>(
    'device',
    (e) => `The certificate of “${e.name}” is for ${e.hosts}, and we dialled ${e.dialled}.`,
    (e) => `Use the name it is for, have it made anew with ${e.dialled} in it, or trust it nevertheless after comparing the fingerprint.`,
  ),
  'certificate.uri': entry<{ name: string; uri: string; expected: string }>(
    'device',
    (e) => `The certificate of “${e.name}” names the application ${e.uri}, and the server calls itself ${e.expected}.`,
    () => 'Have it made anew on the device, or trust it nevertheless after comparing the fingerprint.',
  ),
  'certificate.key-short': entry<{ name: string; bits: number; least: number }>(
    'device',
    (e) => `The key of “${e.name}” has ${e.bits} bits; ${e.least} are the least that today’s policies allow.`,
    () => 'Have a new certificate made with a longer key. Keys this short are broken in practice, so this one cannot be trusted.',
  ),
  'certificate.unreadable': entry<{ what: string }>(
    'entry',
    (e) => `This is no ${e.what} that can be read.`,
    () => 'PEM is asked for: text between -----BEGIN and -----END lines, and a private key without a pass phrase.',
  ),
  'certificate.key-mismatch': entry<{ name: string }>(
    'entry',
    (e) => `The private key does not belong to the certificate “${e.name}”.`,
    () => 'Take the pair that was made together. Nothing was changed.',
  ),
  'certificate.no-uri': entry<{ name: string }>(
    'entry',
    (e) => `The certificate “${e.name}” names no application URI.`,
    () => 'An OPC UA application certificate has its URI among the subject’s alternative names; have it made with one.',
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
  'opcua.silent-publish': entry<{ ms: number; instead: boolean }>(
    'network',
    (e) => `Reads work, but nothing has been published for ${Math.round(e.ms / 1000)} s.`,
    (e) =>
      `Something on the way, or the server itself, holds notifications back; look at a firewall that inspects OPC UA, and at the server’s subscription settings.${e.instead ? ' Meanwhile values are read instead.' : ''}`,
  ),
  'opcua.namespaces-changed': entry(
    'device',
    () => 'The server came back with its namespaces in another order.',
    () => 'Tags are kept by the URI of their namespace, so they find their nodes again; nothing to do.',
  ),
  'opcua.not-browsable': entry<{ name: string }>(
    'here',
    (e) => `“${e.name}” is not connected, so it cannot be browsed.`,
    () => 'Switch it on and run its check to see why it does not connect.',
  ),
  'write.refused': entry<{ path: string; status: string; words: string }>(
    'device',
    (e) => `The server does not take the value for ${e.path}: ${e.words}.`,
    (e) =>
      e.status === 'BadUserAccessDenied'
        ? 'The user of this link may not write there. Sign in as one who may, or have the right given on the server.'
        : 'Nothing was changed there.',
  ),
  'write.not-writable': entry<{ path: string }>(
    'entry',
    (e) => `${e.path} may only be read.`,
    () => 'Set its access to “read and write” if it is meant to be written.',
  ),
  'write.value': entry<{ path: string; problem: string }>(
    'entry',
    (e) => `${e.path} cannot take this value: ${e.problem}.`,
    () => 'Nothing was sent.',
  ),
  'write.queue-full': entry<{ path: string; most: number }>(
    'here',
    (e) => `${e.most} writes are waiting for this link already; the one to ${e.path} was not taken.`,
    () => 'The device is slower than the writer. Write less often, or keep only the latest per tag (on the link).',
  ),
  'write.superseded': entry<{ path: string }>(
    'here',
    (e) => `A newer value for ${e.path} took the place of this one before it was sent.`,
    () => 'The link keeps only the latest write per tag.',
  ),
  'link.off': entry<{ name: string }>(
    'here',
    (e) => `Link “${e.name}” is switched off or not connected.`,
    () => 'Switch it on, or run its check to see why it does not connect.',
  ),
  'port.in-use': entry<Peer>(
    'here',
    (e) => `Port ${e.port} on ${e.host} is taken by another program.`,
    () => 'Choose another port, or stop the other program.',
  ),
  'outlet.failed': entry<{ problem: string }>(
    'here',
    (e) => `The outlet could not be opened: ${e.problem}`,
    () => 'It is tried again with growing pauses.',
  ),
} as const

export type FaultCode = keyof typeof catalogue
type EvidenceOf<C extends FaultCode> = (typeof catalogue)[C] extends Entry<infer E> ? E : never

/** Makes a fault. `evidence` is what was seen: a system error, bytes, an answer in the far side's words. */
export const fault = <C extends FaultCode>(code: C, facts: EvidenceOf<C>, evidence = ''): Fault => {
  const found = catalogue[code] as unknown as Entry<EvidenceOf<C>>
  return { code, side: found.side, what: found.what(facts), next: found.next(facts), evidence }
}

export const sideText: Record<Side, string> = {
  entry: 'in what was entered',
  here: 'on this machine',
  network: 'on the way there',
  device: 'on the device’s side',
  consumer: 'on the consumer’s side',
}
