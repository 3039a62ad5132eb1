import { duration } from '../../text/duration'
import type { Facts } from '../facts'
import { against, forIt, stoppedBy, type Rule } from '../rule'
import { betweenText, changeSaid, hostText, portText, routeText, workedText } from '../words'

/** Why a host or a port is not reached: names, routes, firewalls, hosts that are off, services that do not listen. */

const silent = stoppedBy('tcp.no-answer')
const unreachable = stoppedBy('tcp.unreachable')
const refused = stoppedBy('tcp.refused')
const notReached = (facts: Facts) => silent(facts) || unreachable(facts)
/** Of what goes without a connection: nothing came back, or it did not leave. */
const unanswered = stoppedBy('bacnet.nobody', 'bacnet.not-found', 'bacnet.silent')
const notSent = stoppedBy('bacnet.not-sent')
const portOf = ({ goal }: Facts) => goal?.port ?? 0

const usualElsewhere = ({ goal, other }: Facts) => (goal && other?.port === goal.usualPort ? other : undefined)
const isUsual = ({ goal }: Facts) => goal !== undefined && goal.port === goal.usualPort
const hostLives = (facts: Facts): string | null => {
  if (facts.echo?.outcome === 'answers') return `it answers an echo request in ${duration(facts.echo.ms)}`
  if (facts.other && facts.other.outcome !== 'silent')
    return `TCP ${facts.other.port} of it ${facts.other.outcome === 'open' ? 'is open' : 'answers, and refuses'}`
  if (facts.neighbour?.outcome === 'answers' && facts.route?.outcome === 'same network')
    return 'its network card answers on our segment (address resolution)'
  return null
}

export const reachRules: Rule[] = [
  {
    id: 'own-firewall',
    side: 'here',
    explains: (facts) => notReached(facts) || refused(facts) || unanswered(facts) || notSent(facts),
    title: (facts) => `The firewall of this machine stops ${portText(facts)} to ${hostText(facts)}.`,
    where: () => 'On this machine',
    next: ({ filter }) =>
      filter?.outcome === 'stops'
        ? [`Look at the rule: nft -a list chain ${filter.place}`, 'Take it out, or let our connection pass before it.', 'Check again.']
        : ['As root: nft list ruleset', 'Look for a rule of the output hook that stops this address or port.', 'Check again.'],
    signs: [
      forIt('proof', ({ filter }) => (filter?.outcome === 'stops' ? `its rule, read from this machine: ${filter.rule}` : null)),
      forIt('clear', ({ filter }) => (filter?.outcome === 'depends' ? `a rule that may stop it: ${filter.rule}` : null)),
      against('proof', ({ filter }) => (filter?.outcome === 'lets through' ? 'none of its rules stops this connection' : null)),
      against('hint', ({ filter }) => (filter ? null : 'nothing of it was seen: its rules could not be read')),
    ],
    unmeasured: ({ filter }) => (filter ? null : 'The rules of this machine could not be read. As root: nft list ruleset'),
  },
  {
    id: 'no-route',
    side: 'here',
    explains: (facts) => notReached(facts) || notSent(facts),
    title: (facts) => `This machine has no way to the network of ${hostText(facts)}.`,
    where: () => 'On this machine',
    next: (facts) => [
      `Check the address ${facts.address ?? facts.goal?.host ?? ''}: it is in no network of this machine.`,
      'Give this machine a route there, or a default router.',
      'Where the link names an interface, check that it is the right one and up.',
    ],
    signs: [
      forIt('proof', ({ route }) => (route?.outcome === 'none' ? 'its table of routes has none that fits' : null)),
      against('proof', ({ route }) => (route && route.outcome !== 'none' ? `there is a route: ${routeText(route)}` : null)),
    ],
  },
  {
    id: 'router-silent',
    side: 'network',
    explains: (facts) => notReached(facts) || unanswered(facts),
    title: ({ route }) => `The router ${route?.outcome === 'through a router' ? route.router : 'on the way'} does not answer.`,
    where: ({ route }) => (route?.outcome === 'through a router' ? `At the router ${route.router}` : 'At the router'),
    next: () => [
      'Look whether it is on, and whether its cable and this machine’s are plugged in.',
      'Check that its address is the one in this machine’s routes.',
    ],
    signs: [
      forIt('proof', ({ route, neighbour }) =>
        route?.outcome === 'through a router' && neighbour?.outcome === 'silent'
          ? 'nobody answers for its address on our segment (address resolution)'
          : null,
      ),
      against('proof', ({ route, neighbour }) =>
        route?.outcome === 'through a router' && neighbour?.outcome === 'answers' ? 'its network card answers' : null,
      ),
      against('proof', ({ route }) => (route && route.outcome !== 'through a router' ? 'no router stands between' : null)),
      against('proof', (facts) => (facts.route?.outcome === 'through a router' ? hostLives(facts) : null)),
    ],
  },
  {
    id: 'host-off',
    side: 'device',
    explains: notReached,
    title: (facts) => `${hostText(facts)} is off, unplugged, or has another address.`,
    where: (facts) => `At ${hostText(facts)}`,
    next: () => [
      'Look whether it has power, and whether the lights at its network socket and at the switch are lit.',
      'Read its address from its display or its own settings, and compare it with the one in this link.',
      'Look in the switch whether its port is in the right network (VLAN).',
    ],
    signs: [
      forIt('proof', ({ route, neighbour }) =>
        route?.outcome === 'same network' && neighbour?.outcome === 'silent'
          ? 'nobody answers for its address on our segment (address resolution)'
          : null,
      ),
      forIt('clear', (facts) =>
        unreachable(facts) && facts.ms !== null && facts.ms > 800 ? 'it was looked for in vain for a while' : null,
      ),
      forIt('clear', ({ echo }) => (echo?.outcome === 'silent' ? 'it answers no echo request' : null)),
      forIt('hint', workedText),
      against('proof', (facts) => hostLives(facts)),
      against('strong', ({ filter }) => (filter?.outcome === 'stops' ? 'our own firewall stops the question' : null)),
      against('strong', ({ echo }) => (echo?.outcome === 'stopped' ? `${echo.by} answers instead: ${echo.words}` : null)),
      against('proof', ({ route }) => (route?.outcome === 'none' ? 'it was never asked: no route' : null)),
    ],
    unmeasured: ({ route, echo }) =>
      route?.outcome === 'through a router' && echo?.outcome !== 'answers'
        ? 'Whether it is there behind the router: try it from a machine of its own segment (ping, then its port).'
        : null,
  },
  {
    id: 'no-way-back',
    side: 'device',
    explains: notReached,
    title: (facts) => `${hostText(facts)} hears us, and has no way back to this machine’s network.`,
    where: (facts) => `On ${hostText(facts)}`,
    next: (facts) => [
      `Enter the router of its own network as its default router (gateway); what it sends to ${fromText(facts)} must go there.`,
      'Check its network mask: one that is too wide takes us for a neighbour.',
    ],
    signs: [
      forIt('clear', ({ route, neighbour, echo }) =>
        route?.outcome === 'through a router' && neighbour?.outcome === 'answers' && echo?.outcome === 'silent'
          ? 'the router is there, and nothing comes back from beyond it'
          : null,
      ),
      against('proof', ({ route }) => (route && route.outcome !== 'through a router' ? 'no router stands between' : null)),
      against('proof', (facts) => hostLives(facts)),
      against('hint', workedText),
    ],
    unmeasured: () => 'Whether it is there at all: try it from a machine of its own segment (ping); if that works, it is the way back.',
  },
  {
    id: 'behind-translation',
    side: 'device',
    explains: notReached,
    title: (facts) => `${hostText(facts)} passes ${portText(facts)} on to a machine behind it, which is not there.`,
    where: (facts) => `Behind ${hostText(facts)}`,
    next: (facts) => [
      `Look in ${hostText(facts)} to which address it passes ${portText(facts)} on (port forwarding), and whether that machine is on.`,
      'If it serves this port itself, look at its own firewall instead.',
    ],
    signs: [
      forIt('proof', (facts) =>
        unreachable(facts) && hostLives(facts) !== null && facts.ms !== null && facts.ms > 800
          ? `it answers itself, and said after ${duration(facts.ms)} of looking for it that nobody is there`
          : null,
      ),
      forIt('hint', (facts) => (silent(facts) ? hostLives(facts) : null)),
      against('proof', (facts) => (hostLives(facts) === null ? 'it does not answer itself' : null)),
      against('proof', ({ route }) => (route?.outcome === 'this machine' ? 'it is this machine' : null)),
      against('proof', ({ filter }) => (filter?.outcome === 'stops' ? 'our own firewall stops it before' : null)),
    ],
    unmeasured: () =>
      'Whether it passes this port on: only it knows. Wait longer for a connection (4 s): then it tells that nobody is there.',
  },
  {
    id: 'port-filtered',
    side: 'network',
    explains: notReached,
    title: (facts) => `A firewall swallows ${portText(facts)} on the way to ${hostText(facts)}.`,
    where: betweenText,
    next: (facts) => [
      `Let ${portText(facts)} in, from ${fromText(facts)} to ${facts.address ?? facts.goal?.host ?? 'there'}.`,
      facts.route?.outcome === 'same network'
        ? 'Both are on one segment, so it is the firewall of that machine itself (or a switch with access lists).'
        : 'It may stand in the router, in a firewall behind it, or on that machine itself: look at the first that logs what it drops.',
      'Check again from here; it takes effect at once.',
    ],
    signs: [
      forIt('strong', (facts) => hostLives(facts)),
      forIt('clear', (facts) => (silent(facts) ? 'silence: a host that lets the question in and has no such port refuses at once' : null)),
      forIt('proof', ({ echo }) => (echo?.outcome === 'stopped' ? `${echo.by} says so: ${echo.words}` : null)),
      forIt('strong', (facts) =>
        unreachable(facts) && quick(facts) && facts.route?.outcome !== 'none' ? 'somebody said no at once, and not the port itself' : null,
      ),
      forIt('hint', workedText),
      against('proof', ({ route, neighbour }) =>
        route?.outcome === 'same network' && neighbour?.outcome === 'silent' ? 'the host is not there at all' : null,
      ),
      against('proof', ({ route, neighbour }) =>
        route?.outcome === 'through a router' && neighbour?.outcome === 'silent' ? 'the router itself does not answer' : null,
      ),
      against('strong', ({ echo }) => (echo?.outcome === 'silent' ? 'an echo request is not answered either' : null)),
      against('proof', ({ filter }) => (filter?.outcome === 'stops' ? 'our own firewall stops it before' : null)),
      against('proof', ({ route }) => (route?.outcome === 'none' ? 'no route leads there' : null)),
      against('proof', ({ route }) => (route?.outcome === 'this machine' ? 'it is this machine' : null)),
    ],
    unmeasured: ({ route }) =>
      route?.outcome === 'through a router' ? 'Which of the machines between drops it: only they know; most can log it.' : null,
  },
  {
    id: 'service-hangs',
    side: 'device',
    explains: silent,
    title: (facts) => `The service on ${portText(facts)} of ${hostText(facts)} takes no more connections.`,
    where: (facts) => `On ${hostText(facts)}`,
    next: () => ['Look at its load, and at how many connections it has.', 'Start the service anew.'],
    signs: [
      forIt('clear', (facts) =>
        facts.route?.outcome === 'this machine' ? 'it is this machine, and nothing between could swallow it' : null,
      ),
      forIt('hint', workedText),
      against('clear', (facts) => (hostLives(facts) === null ? 'the host itself does not answer' : null)),
      against('proof', ({ filter }) => (filter?.outcome === 'stops' ? 'our own firewall stops it before' : null)),
    ],
  },
  {
    id: 'nobody-listens',
    side: 'device',
    explains: (facts) => refused(facts) || (unanswered(facts) && facts.datagram !== undefined),
    title: (facts) => `Nobody listens on ${portText(facts)} of ${hostText(facts)}.`,
    where: (facts) => `On ${hostText(facts)}`,
    next: (facts) => [
      `Look whether the service is switched on and started there (${facts.goal?.speaks ?? 'its server'}).`,
      `See what listens: ss ${facts.goal?.carries === 'udp' ? '-lun' : '-ltn'}, or netstat -an, there; it may listen for its own machine only.`,
      'A firewall that rejects looks the same from here.',
    ],
    signs: [
      forIt('strong', (facts) => (refused(facts) && quick(facts) ? `the host itself said no in ${duration(facts.ms ?? 0)}` : null)),
      forIt('proof', ({ datagram }) =>
        datagram?.outcome === 'refused' ? 'its machine says that nobody listens there (RFC 792, port unreachable)' : null,
      ),
      against('proof', (facts) =>
        !refused(facts) && facts.datagram?.outcome !== 'refused' ? 'its machine does not say that nobody listens' : null,
      ),
      forIt('hint', (facts) => (isUsual(facts) ? `${portOf(facts)} is the usual port of ${facts.goal?.speaks}` : null)),
      against('strong', (facts) => changeSaid(facts, 'address')),
      against('strong', (facts) => (usualElsewhere(facts)?.outcome === 'open' ? 'its usual port is open there' : null)),
      against('strong', (facts) => restarting(facts)),
      against('proof', ({ filter }) => (filter?.outcome === 'stops' ? 'our own firewall says no in its place' : null)),
    ],
    unmeasured: ({ goal }) =>
      `Whether that host or a firewall refused: on that host, ss ${goal?.carries === 'udp' ? '-lun' : '-ltn'} tells whether anybody listens.`,
  },
  {
    id: 'wrong-port',
    side: 'entry',
    explains: (facts) => refused(facts) || silent(facts),
    title: (facts) => `The port is another one: ${facts.other?.port ?? facts.goal?.usualPort ?? ''} is open there.`,
    where: () => 'In these settings',
    next: (facts) => [`Enter port ${facts.other?.port ?? facts.goal?.usualPort ?? ''}, and check again.`],
    signs: [
      forIt('proof', (facts) =>
        usualElsewhere(facts)?.outcome === 'open' ? `the usual port of ${facts.goal?.speaks} is open on the same host` : null,
      ),
      against('proof', (facts) => (usualElsewhere(facts)?.outcome === 'open' ? null : 'no other port was found open')),
      against('clear', workedText),
    ],
  },
  {
    id: 'service-restarts',
    side: 'device',
    explains: refused,
    title: (facts) => `The service on ${hostText(facts)} is being started anew.`,
    where: (facts) => `On ${hostText(facts)}`,
    next: () => ['Wait a minute; this link tries by itself.', 'If it stays so, look there why the service does not come back.'],
    signs: [
      forIt('proof', (facts) => restarting(facts)),
      against('proof', (facts) => (restarting(facts) ? null : 'it did not work a moment ago')),
      against('strong', (facts) => changeSaid(facts, 'address')),
    ],
  },
  {
    id: 'name-moved',
    side: 'network',
    explains: (facts) => notReached(facts) || refused(facts),
    title: (facts) => `The name ${facts.goal?.host} leads to another machine than before.`,
    where: () => 'In the name service (or the hosts file of this machine)',
    next: (facts) => [`Ask: getent hosts ${facts.goal?.host}`, 'Have the entry corrected, or enter the numeric address in this link.'],
    signs: [
      forIt('proof', (facts) => changeSaid(facts, 'address')),
      against('proof', (facts) => (changeSaid(facts, 'address') ? null : 'it is the same address as before, as far as is known')),
    ],
  },
  {
    id: 'one-of-several',
    side: 'network',
    explains: (facts) => notReached(facts) || refused(facts),
    title: (facts) => `The name ${facts.goal?.host} stands for several machines, and this one does not answer.`,
    where: () => 'In the name service (or the hosts file of this machine)',
    next: () => ['Have the wrong entries taken out, or enter the numeric address of the right machine in this link.'],
    signs: [
      forIt('clear', ({ addresses }) => ((addresses?.length ?? 0) > 1 ? `it stands for ${addresses!.join(', ')}` : null)),
      against('proof', ({ addresses }) => ((addresses?.length ?? 0) > 1 ? null : 'it stands for one address only')),
    ],
  },
  {
    id: 'other-card',
    side: 'network',
    explains: (facts) => notReached(facts) || refused(facts),
    title: (facts) => `Another machine has taken the address of ${hostText(facts)}.`,
    where: (facts) => `On the segment of ${hostText(facts)}`,
    next: () => ['Look in the switch which port has the new network card.', 'Give one of the two machines another address.'],
    signs: [
      forIt('proof', (facts) => changeSaid(facts, 'hardware')),
      against('proof', (facts) => (changeSaid(facts, 'hardware') ? null : 'it is the same network card, or none could be seen')),
    ],
  },
  {
    id: 'name-unknown',
    side: 'network',
    explains: stoppedBy('name.unknown'),
    title: (facts) => `The name service of this machine does not know ${facts.goal?.host ?? 'this name'}.`,
    where: () => 'On this machine, or in its name service',
    next: (facts) => [
      `Check the spelling of ${facts.goal?.host ?? 'the name'}.`,
      `Ask from this machine: getent hosts ${facts.goal?.host ?? 'NAME'}`,
      'Enter the numeric address; or have the name entered in the name service, or in the hosts file of this machine.',
    ],
    signs: [
      forIt('strong', ({ fault }) => (fault.evidence === 'ENOTFOUND' ? 'it was asked, and says that there is no such name' : null)),
      against('strong', ({ fault }) => (fault.evidence === 'EAI_AGAIN' ? 'the name service itself gave no answer' : null)),
    ],
  },
  {
    id: 'name-service-away',
    side: 'network',
    explains: stoppedBy('name.unknown'),
    title: () => 'The name service that this machine asks does not answer.',
    where: () => 'At the name server, or on the way to it',
    next: () => [
      'See which one is asked: cat /etc/resolv.conf',
      'Let this machine reach it (UDP and TCP 53), or enter the numeric address in this link.',
    ],
    signs: [
      forIt('strong', ({ fault }) => (fault.evidence === 'EAI_AGAIN' ? 'it gave no answer in time (EAI_AGAIN)' : null)),
      against('proof', ({ fault }) => (fault.evidence === 'ENOTFOUND' ? 'it answered' : null)),
    ],
  },
  {
    id: 'own-address-gone',
    side: 'here',
    explains: stoppedBy('tcp.local-address'),
    title: () => 'The interface that this link is to use is not there.',
    where: () => 'On this machine',
    next: () => ['See what is there: ip address', 'Choose another interface for this link, or leave it open.'],
    signs: [forIt('proof', ({ fault }) => fault.what), forIt('hint', (facts) => changeSaid(facts, 'interfaces'))],
  },
]

/** A refusal of the host itself takes no longer than a round trip. */
const quick = ({ ms }: Facts) => ms !== null && ms < 500

const restarting = ({ lastGood, now }: Facts): string | null =>
  lastGood != null && now - lastGood < 90_000 ? `it worked ${duration(now - lastGood)} ago` : null

const fromText = ({ route }: Facts) => (route && 'from' in route ? route.from : 'this machine')
