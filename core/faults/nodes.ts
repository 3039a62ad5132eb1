import { entry } from './entry'

const apart = (ms: number) => {
  const hours = Math.abs(ms) / 3_600_000
  return hours < 48 ? `${Math.max(1, Math.round(hours))} h` : `${Math.round(hours / 24)} days`
}
const anew = 'Make a new code at the site (Site › Nodes), and type it here: ./conduit node, and the code.'

/** Machines elsewhere that run links of a site. */
export const nodeFaults = {
  'node.away': entry<{ name: string; since: string }>(
    'network',
    (e) => `The node “${e.name}” is not connected${e.since}. What its links have by now is not known here.`,
    (e) =>
      `Look whether its machine runs and can reach this site’s door of nodes. On that machine: ./conduit status says what it sees. What “${e.name}” records meanwhile comes once it is back.`,
  ),
  'node.never': entry<{ name: string }>(
    'entry',
    (e) => `No machine came in as “${e.name}” yet.`,
    () => 'Make its command under Site › Nodes, and type it on the machine that is to be this node.',
  ),
  'node.catching-up': entry<{ name: string }>(
    'here',
    (e) => `“${e.name}” does not know this link yet: it is being told.`,
    () => 'It comes by itself, within a second or two.',
  ),
  'node.not-there': entry<{ what: string }>(
    'here',
    (e) => `${e.what} is not possible for a link that runs on a node.`,
    () => 'Let the link run on this site’s own engine for that.',
  ),
  'node.no-door': entry(
    'entry',
    () => 'This site has no door of nodes: nobody could come in with a code.',
    () => 'Say under Site › Nodes where nodes reach this machine.',
  ),
  'node.alone': entry(
    'entry',
    () => 'The database of this site is its own and listens on this machine only: no other machine could stand by.',
    () => 'Move the site to a PostgreSQL server that both machines reach (./conduit database), and make the command then.',
  ),
  'node.leads': entry<{ name: string }>(
    'entry',
    (e) => `“${e.name}” leads the site, or is the only one that can.`,
    () => 'Hand the lead over to another machine that stands by first.',
  ),
  'node.command': entry<{ standsBy: boolean }>(
    'entry',
    (e) => (e.standsBy ? 'This code is for a machine that stands by for its site.' : 'This code is for a machine that runs links only.'),
    (e) => `Type ./conduit ${e.standsBy ? 'standby' : 'node'} and the code. It still holds; nothing was changed.`,
  ),
  'node.is-one': entry<{ name: string }>(
    'entry',
    (e) => `A machine is “${e.name}” already: whether it stands by cannot be changed any more.`,
    () => 'Make another node, and let its machine become that one.',
  ),
  'node.stands-not-by': entry<{ name: string }>(
    'entry',
    (e) => `“${e.name}” is not connected, or does not stand by: it cannot lead.`,
    () => 'Choose a machine that is connected and stands by.',
  ),
  'node.code': entry<{ problem: string }>(
    'entry',
    (e) => `That is no code for a node: ${e.problem}`,
    () => 'Compare it with the code that the site shows under Site › Nodes. Nothing was changed.',
  ),
  'node.not-awaited': entry<{ at: string }>(
    'consumer',
    (e) => `The site at ${e.at} awaits nobody with this code: it was used, withdrawn, or has run out.`,
    () => anew,
  ),
  'node.other-site': entry<{ at: string }>(
    'network',
    (e) => `What answers at ${e.at} is not the site that made this code: it shows another certificate.`,
    () => 'Nothing was said to it. Check that the address leads to that site, also through address translation.',
  ),
  'node.proof': entry<{ by: string }>(
    'device',
    (e) => `${e.by} could not prove that it knows the code.`,
    () => `Somebody else may stand between the two. Nothing was changed. ${anew}`,
  ),
  'node.guessed': entry<{ tries: number }>(
    'network',
    (e) => `${e.tries} wrong proofs came for the code of a node; it was withdrawn.`,
    () => 'See the journal for where they came from. Make a new code.',
  ),
  'node.form': entry<{ theirs: number; ours: number }>(
    'device',
    (e) => `The node speaks form ${e.theirs}, the site form ${e.ours}: the ${e.theirs > e.ours ? 'node' : 'site'} is of a newer version.`,
    (e) => `Bring the ${e.theirs > e.ours ? 'site' : 'node'} to the version of the other. Until then the node goes on with what it has.`,
  ),
  'node.clock': entry<{ name: string; aheadMs: number }>(
    'device',
    (e) => `The clock of the node “${e.name}” is ${apart(e.aheadMs)} ${e.aheadMs > 0 ? 'ahead of' : 'behind'} that of its site.`,
    () =>
      'One of the two is wrong, and its values would be recorded at times that cannot be. Set it (timedatectl set-time, or a time server); the node comes in by itself then.',
  ),
  'node.unknown': entry(
    'consumer',
    () => 'The site does not know this machine any more: its node was removed there, or given to another machine.',
    () => `To become a node again: ${anew}`,
  ),
  'node.twice': entry<{ name: string; other: string }>(
    'device',
    (e) => `Another machine is connected as the node “${e.name}”, from ${e.other}.`,
    () =>
      'Two machines have the key of one node: one of them is a copy of the other. On the one that is not to be it, stop Keen Conduit, remove its state folder, and make it a node of its own with a code.',
  ),
  'node.has-things': entry<{ name: string; things: string[] }>(
    'entry',
    (e) => `On “${e.name}” run ${e.things.slice(0, 5).join(', ')}${e.things.length > 5 ? ', …' : ''}.`,
    () => 'Place them elsewhere, or remove them, and remove the node then.',
  ),
  'node.words': entry<{ problem: string }>(
    'device',
    (e) => `What came from the node cannot be understood: ${e.problem}.`,
    () => 'Bring the node and the site to the same version. The connection was closed, and is opened again.',
  ),
  'node.no-answer': entry<{ at: string; problem: string }>(
    'network',
    (e) => `The site’s door of nodes at ${e.at} does not answer: ${e.problem}.`,
    () => 'Check the address, the firewall on the way, and that the site runs. It is tried again by itself.',
  ),
} as const
