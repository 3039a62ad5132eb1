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
