import { momentText } from '../text/moment'
import { entry, type Peer } from './entry'

const of = (at: number | null) => (at ? ` of ${momentText(at)}` : '')

/** What happens in our own processes, and to writes on their way. */
export const ourFaults = {
  'formula.failed': entry<{ path: string; problem: string }>(
    'entry',
    (e) => `The formula of ${e.path} gives no value: ${e.problem}.`,
    () => 'Say in the formula what is to be in that case, as in b == 0 ? 0 : a / b, or correct its inputs.',
  ),
  'formula.cycle': entry<{ path: string; way: string[] }>(
    'entry',
    (e) => `The formula of ${e.path} reads itself in the end${e.way.length > 0 ? `: ${e.way.join(' → ')}` : ''}.`,
    () => 'Let one of these formulas read something else. What a formula gave before is had with previous().',
  ),
  'formula.no-input': entry<{ path: string; name: string; input: string }>(
    'entry',
    (e) => `The formula of ${e.path} reads ${e.input} as ${e.name}, and no tag has this path.`,
    () => 'Choose another tag for it, or make that one.',
  ),
  'journal.forwarding': entry<Peer & { problem: string }>(
    'network',
    (e) => `Events do not reach the syslog server at ${e.host}:${e.port}: ${e.problem}.`,
    () => 'Check its address, port and transport, and that it takes messages from this machine. The newest events wait meanwhile.',
  ),
  'worker.away': entry<{ problem: string }>(
    'here',
    (e) => `What looks through all tags does not answer just now: ${e.problem}.`,
    () => 'Ask again in a minute; nothing else waits for it. If it stays so, send the log of the web application.',
  ),
  'engine.away': entry(
    'here',
    () => 'The engine does not answer.',
    () => 'It is restarted by itself; values come back then. If it stays away, read its log in the state folder.',
  ),
  'case.nothing': entry(
    'here',
    () => 'This copy looks at the case of another site and is connected to nothing.',
    () => 'What its engine told when the pack was made is shown; what has to be asked, has to be asked at the site itself.',
  ),
  'case.fixed': entry(
    'here',
    () => 'This copy looks at the case of another site, which stays as it was.',
    () => 'Change it at the site itself; or close the case (Site › Case), which empties this copy.',
  ),
  'case.not-empty': entry(
    'here',
    ({ things }: { things: string }) => `This site is not empty: it has ${things}.`,
    () => 'A pack is looked at in a copy that has nothing of its own: start one with a state folder of its own (CONDUIT_STATE).',
  ),
  'case.none': entry(
    'entry',
    () => 'No case is open here.',
    () => 'It was closed meanwhile, perhaps by somebody else.',
  ),
  'case.unreadable': entry(
    'entry',
    ({ problem }: { problem: string }) => `This is no handover pack that can be read: ${problem}.`,
    () => 'Take the ZIP file as it came from “Take the pack along”. Its summary.html opens in any browser.',
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
  'site.other-database': entry<{ name: string; revision: number; changedAt: number; inForce: number; inForceAt: number | null }>(
    'here',
    (e) =>
      e.revision < e.inForce
        ? `The database is of an older state: revision ${e.revision}${of(e.changedAt)}. In force is revision ${e.inForce}${of(e.inForceAt)}, and stays so.`
        : `The database is another one than that which is in force: it has no revision ${e.inForce}${of(e.inForceAt)}. What is in force stays so.`,
    () =>
      'Decide on Site: take the database as it is, or bring what is in force back into it. Until then nothing that is changed on pages takes effect.',
  ),
  'site.not-held': entry(
    'entry',
    () => 'The database is the one that is in force: there is nothing to decide.',
    () => 'Somebody decided meanwhile, or the database is back as it was. Load the page again.',
  ),
  'ours.unexpected': entry<{ problem: string }>(
    'here',
    (e) => `Something went wrong inside Keen Conduit: ${e.problem}`,
    () => 'Nothing was saved. Try again; if it stays, pass on the journal with the time of this message.',
  ),
  'force.failed': entry<{ thing: string; name: string; problem: string }>(
    'here',
    (e) => `The ${e.thing} “${e.name}” could not be brought into force: ${e.problem}`,
    () => 'Correct what the message names, or take the change back; then try again, on Site.',
  ),
  'force.unreadable': entry<{ thing: string; name: string; problem: string }>(
    'here',
    (e) => `The ${e.thing} “${e.name}” is stored in a form that this version cannot read: ${e.problem}`,
    () => 'It stays as it was. Save it again, or take the last change of it back, on Site.',
  ),
  'force.no-link': entry<{ name: string; source: string }>(
    'here',
    (e) => `The tag ${e.name} has its values from ${e.source}, which is not in force.`,
    () => 'Bring that into force first; the tag follows by itself.',
  ),
  'link.off': entry<{ name: string }>(
    'here',
    (e) => `Link “${e.name}” is switched off or not connected.`,
    () => 'Switch it on, or run its check to see why it does not connect.',
  ),
  'link.lags': entry<{ part: string; sentence: string }>(
    'entry',
    (e) => `${e.part} is asked for more than it does: ${e.sentence}.`,
    () => 'Lengthen the intervals of its tags, take fewer, or let more be read in one request; the link shows what it can sustain.',
  ),
  'link.unsteady': entry<{ name: string; times: number; within: string; held: string }>(
    'network',
    (e) => `“${e.name}” works now, and broke ${e.times} times within ${e.within}; it held ${e.held}.`,
    () => 'Look at the causes beside this step, and at the journal for what each break said.',
  ),
  'link.not-browsable': entry<{ name: string }>(
    'here',
    (e) => `“${e.name}” is not connected, so nobody can look around there.`,
    () => 'Switch it on and run its check to see why it does not connect.',
  ),
  'link.no-ports': entry<{ name: string }>(
    'entry',
    (e) => `Nothing is plugged in over the link “${e.name}”.`,
    () => 'Only masters of smart sensors have ports.',
  ),
  'link.no-priorities': entry<{ name: string }>(
    'entry',
    (e) => `“${e.name}” speaks a protocol that knows no priorities.`,
    () => 'Write a value instead; there is nothing to give back.',
  ),
  'link.broke-off': entry<{ problem: string }>(
    'device',
    (e) => `Looking around on the far side broke off: ${e.problem}.`,
    () => 'Try again; if it breaks off again, run the check of the link.',
  ),
  'port.in-use': entry<Peer>(
    'here',
    (e) => `Port ${e.port} on ${e.host} is taken by another program.`,
    () => 'Choose another port, or stop the other program.',
  ),
  'outlet.no-interface': entry<{ address: string }>(
    'here',
    (e) => `This machine has no interface with the address ${e.address} now.`,
    () => 'The door opens by itself when the interface is there. If it was given another address, choose that one.',
  ),
  'outlet.off': entry(
    'here',
    () => 'The outlet is switched off, or not open yet.',
    () => 'Switch it on; its doors open then.',
  ),
  'outlet.no-model': entry<{ name: string }>(
    'entry',
    (e) => `“${e.name}” sends no model to anybody.`,
    () => 'Only outlets to a platform do. Open one of those.',
  ),
  'outlet.door-closed': entry<{ port: number }>(
    'here',
    (e) => `The door on port ${e.port} is closed.`,
    () => 'Switch it on, and the outlet itself.',
  ),
  'outlet.name-elsewhere': entry<{ host: string; address: string }>(
    'network',
    (e) => `Clients are told to dial ${e.host}, and for this machine’s name service that is ${e.address}: not this machine.`,
    () => 'Give out a name or a numeric address that leads here, or have the name service corrected. Clients may have another one.',
  ),
  'outlet.certificate-for': entry<{ host: string; problem: string }>(
    'here',
    (e) => `Careful clients will refuse our certificate at ${e.host}: ${e.problem}.`,
    () => 'Give out a host that it is for, or have it made anew under Site.',
  ),
  'outlet.firewall': entry<{ port: number; rule: string; place: string }>(
    'here',
    (e) => `The firewall of this machine lets nobody from elsewhere in at TCP ${e.port}.`,
    (e) =>
      `Put a rule before the one in the evidence: nft insert rule ${e.place} tcp dport ${e.port} accept; and keep it where this system keeps its rules.`,
  ),
  'outlet.no-right': entry<{ port: number }>(
    'here',
    (e) => `The engine has no right to listen on port ${e.port}.`,
    () => 'Ports below 1024 belong to the system: give the engine that right (CAP_NET_BIND_SERVICE), or choose a port from 1024 on.',
  ),
  'outlet.failed': entry<{ problem: string }>(
    'here',
    (e) => `The outlet could not be opened: ${e.problem}`,
    () => 'It is tried again with growing pauses.',
  ),
  'outlet.no-names': entry<{ name: string }>(
    'entry',
    (e) => `“${e.name}” has no short names: consumers get topics there.`,
    () => 'Short names are a matter of the OPC UA server.',
  ),
  'outlet.disk': entry<{ problem: string }>(
    'here',
    (e) => `What the outlet has to keep over a restart cannot be written: ${e.problem}`,
    () => 'Make room on the disk of the engine’s machine. Until then it goes on with what it has in memory.',
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
  'write.expired': entry<{ path: string }>(
    'here',
    (e) => `The value for ${e.path} could not be sent in time, and was not sent.`,
    () => 'The link was busy with others, or away. Look at the link, then write again; how long a write may wait is set there.',
  ),
  'write.unknown': entry<{ path: string; problem: string }>(
    'device',
    (e) => `The value for ${e.path} was sent, and no answer came: ${e.problem}. Whether it was taken is not known.`,
    () => 'Look at what the device holds before you write again.',
  ),
  'write.not-kept': entry<{ path: string; problem: string }>(
    'here',
    (e) => `The value for ${e.path} could not be kept on this machine's disk: ${e.problem}. The tag holds what it held.`,
    () => 'See to the disk and the rights of the state folder of the node, then write again.',
  ),
  'write.superseded': entry<{ path: string }>(
    'here',
    (e) => `A newer value for ${e.path} took the place of this one before it was sent.`,
    () => 'The link keeps only the latest write per tag.',
  ),
} as const
