import { duration } from '../../text/duration'
import type { FaultCode } from '../../faults/catalogue'
import type { Facts } from '../facts'
import { isBareRtu, isExpected, otherService, saysNothing } from './greeted'
import { brokeAfterQuiet, cutAfter } from '../steadiness'
import { against, forIt, stoppedBy, type Rule } from '../rule'
import { changeSaid, hostText, lossText, portText, workedText } from '../words'

/** Why a port that is open gives nothing that can be used: another service, connections that are closed or fall silent. */

const foreign: FaultCode[] = [
  ...(['modbus.not-modbus', 'modbus.malformed', 'iso.not-iso', 'iso.malformed', 'iso.no-confirm', 'opcua.not-opcua'] as const),
  ...(['opcua.silent-hello', 'mqtt.not-mqtt', 'mqtt.silent', 'mqtt.tls', 'sql.not-sql', 'sql.silent', 'http.not-http'] as const),
  ...(['http.broken', 'http.silent', 'iolink.malformed', 'mqtt.closed', 'tcp.closed', 'modbus.silent', 'sql.broken'] as const),
  ...(['modbus.unusable', 'iso.refused-place', 'opcua.connection-lost'] as const),
]
const isForeign = stoppedBy(...foreign)
const closed = stoppedBy(
  'tcp.closed',
  'mqtt.closed',
  'sql.broken',
  'opcua.connection-lost',
  'iso.ended',
  'iso.refused-place',
  'http.broken',
  'opcua.not-opcua',
)
const lost = stoppedBy(
  'tcp.closed',
  'mqtt.closed',
  'sql.broken',
  'opcua.connection-lost',
  'modbus.dead-connection',
  'iso.dead-connection',
  'iso.silent',
  'modbus.silent',
  'link.unsteady',
)

/** After how long without a word, or after how long at all, its connections break; null: neither. */
const quietBefore = ({ breaks = [] }: Facts) => brokeAfterQuiet(breaks)
const sameTime = ({ breaks = [] }: Facts) => cutAfter(breaks)

export const serviceRules: Rule[] = [
  {
    id: 'other-service',
    side: 'entry',
    explains: isForeign,
    title: (facts) => `On ${portText(facts)} of ${hostText(facts)} listens ${facts.greeting?.service.title ?? 'another service'}.`,
    where: () => 'In these settings',
    next: ({ goal, greeting }) => [
      greeting?.service.id === 'tls'
        ? 'It expects TLS on this port: switch TLS on for this link, or take its port without TLS.'
        : `Enter the port of ${goal?.speaks ?? 'its server'}${goal?.usualPort ? `; the usual one is ${goal.usualPort}` : ''}.`,
      'Its own settings, or ss -ltnp on that host, tell which service has which port.',
    ],
    signs: [
      forIt('proof', otherService),
      forIt('clear', (facts) =>
        facts.goal?.usualPort && facts.goal.port !== facts.goal.usualPort
          ? `${facts.goal.port} is not the usual port (${facts.goal.usualPort})`
          : null,
      ),
      forIt('hint', (facts) => (saysNothing(facts) ? 'it says nothing that is known here' : null)),
      against('proof', (facts) => (isExpected(facts) ? `it answers as ${facts.greeting!.service.title} does` : null)),
      against('strong', (facts) => (otherService(facts) ? null : workedText(facts))),
      against('strong', (facts) => (isBareRtu(facts) ? 'it does speak Modbus, in another framing' : null)),
    ],
  },
  {
    id: 'rtu-over-tcp',
    side: 'entry',
    explains: (facts) =>
      facts.goal?.speaks === 'Modbus TCP' && stoppedBy('modbus.not-modbus', 'modbus.malformed', 'modbus.silent', 'tcp.closed')(facts),
    title: (facts) => `${hostText(facts)} passes Modbus RTU frames on as they are.`,
    where: () => 'In these settings, or in the converter',
    next: () => [
      'Make a link of the kind “Modbus, serial line”, behind a converter, with framing RTU.',
      'Or set the converter to Modbus TCP, if it can.',
    ],
    signs: [
      forIt('proof', (facts) => (isBareRtu(facts) ? `an RTU frame with the right check sum came: ${facts.greeting!.bytes}` : null)),
      against('clear', (facts) => (isBareRtu(facts) ? null : 'no RTU frame came')),
    ],
  },
  {
    id: 'connections-taken',
    side: 'device',
    explains: closed,
    title: (facts) => `${hostText(facts)} has no place left for our connection.`,
    where: (facts) => `On ${hostText(facts)}`,
    next: () => [
      'End another client of it: a second program, an old session, an engineering tool.',
      'Let fewer connections be used by this link, or raise the limit there.',
    ],
    signs: [
      forIt('strong', (facts) => closedSoon(facts)),
      forIt('hint', workedText),
      against('strong', ({ beside }) => ((beside?.length ?? 0) > 0 ? 'a link of ours holds a connection there' : null)),
      against('strong', (facts) => (otherService(facts) ? 'another service answers' : null)),
    ],
    unmeasured: () => 'Who else is connected: on that device, or in its own list of clients.',
  },
  {
    id: 'our-own-place',
    side: 'here',
    explains: (facts) => closed(facts) || stoppedBy('modbus.place-taken')(facts),
    title: ({ beside }) =>
      `Our own link ${(beside ?? []).map((name) => `“${name}”`).join(', ') || 'to the same place'} holds the one connection that it takes.`,
    where: () => 'On this machine',
    next: () => ['Let both use one link: tags of several units fit on one.', 'Or switch the other link off for the moment.'],
    signs: [
      forIt('proof', ({ beside }) => ((beside?.length ?? 0) > 0 ? `it is connected to the same place now: ${beside!.join(', ')}` : null)),
      forIt('proof', ({ fault }) => (fault.code === 'modbus.place-taken' ? fault.what : null)),
      against('proof', ({ beside, fault }) =>
        (beside?.length ?? 0) === 0 && fault.code !== 'modbus.place-taken' ? 'no other link of ours is connected there' : null,
      ),
    ],
  },
  {
    id: 'not-allowed-in',
    side: 'device',
    explains: closed,
    title: (facts) => `${hostText(facts)} lets in only machines that it knows.`,
    where: (facts) => `On ${hostText(facts)}`,
    next: (facts) => [
      `Enter the address of this machine${facts.route && 'from' in facts.route ? `, ${facts.route.from},` : ''} in its list of those that may connect.`,
      'Where an address translation stands between, it sees that one’s address instead.',
    ],
    signs: [
      forIt('clear', (facts) => closedSoon(facts)),
      forIt('strong', (facts) => changeSaid(facts, 'interfaces') ?? changeSaid(facts, 'route')),
      against('hint', workedText),
      against('strong', ({ beside }) => ((beside?.length ?? 0) > 0 ? 'another link of ours is connected there' : null)),
    ],
  },
  {
    id: 'idle-cut',
    side: 'network',
    explains: lost,
    title: (facts) => {
      const quiet = quietBefore(facts)
      if (quiet !== null) return `Something on the way forgets connections over which nothing passes; ${duration(quiet)} is too long.`
      return `Something on the way cuts connections after ${duration(sameTime(facts) ?? 0)}.`
    },
    where: (facts) => `Between here and ${hostText(facts)}`,
    next: () => [
      'A firewall or an address translation forgets connections over which nothing passes: raise its time there.',
      'Or let this link ask more often than that, so that something always passes.',
    ],
    signs: [
      forIt('proof', (facts) => {
        const quiet = quietBefore(facts)
        return quiet === null
          ? null
          : `each of the last ${facts.breaks!.length} times it broke at the first message after a pause (of ${duration(quiet)} or more)`
      }),
      forIt('proof', (facts) => {
        const after = sameTime(facts)
        return after === null ? null : `the last ${facts.breaks!.length} connections each held about ${duration(after)}`
      }),
      against('proof', (facts) =>
        sameTime(facts) === null && quietBefore(facts) === null
          ? 'its connections ended neither after a pause nor after the same time'
          : null,
      ),
    ],
  },
  {
    id: 'packets-lost',
    side: 'network',
    explains: (facts) => facts.echoes !== undefined,
    title: (facts) => `Packets get lost on the way to ${hostText(facts)}.`,
    where: (facts) => `Between here and ${hostText(facts)}`,
    next: () => [
      'Look at cables and plugs on the way; a switch shows for each of its ports how many packets came in damaged.',
      'Set both ends of each cable to the same speed and duplex, or both to find it out by themselves.',
      'On a radio link, look at its signal and at what else is on its channel.',
    ],
    signs: [
      forIt('proof', (facts) => (explainsSilence(facts) ? lossText(facts) : null)),
      forIt('hint', (facts) => (explainsSilence(facts) ? null : lossText(facts))),
      against('proof', ({ echoes }) =>
        echoes && echoes.answered === echoes.sent ? `${echoes.sent} echo requests, one after the other, were all answered` : null,
      ),
      against('proof', ({ echoes }) => (echoes?.answered === 0 ? 'no echo request is answered at all' : null)),
      against('hint', (facts) => (quietBefore(facts) === null ? null : 'it breaks after pauses only')),
    ],
  },
  {
    id: 'peer-hangs',
    side: 'device',
    explains: stoppedBy(
      ...([
        'modbus.silent',
        'modbus.dead-connection',
        'iso.silent',
        'iso.dead-connection',
        'iso.no-confirm',
        'opcua.silent-hello',
      ] as const),
      ...(['opcua.late', 'mqtt.silent', 'sql.silent', 'http.silent', 'cloud.silent'] as const),
    ),
    title: (facts) => `The service on ${hostText(facts)} takes connections and does not answer.`,
    where: (facts) => `On ${hostText(facts)}`,
    next: () => [
      'Look at its load and its state; start it anew if it hangs.',
      'Where it is slow by nature, raise “answers within” in these settings.',
    ],
    signs: [
      against('proof', ({ isPart }) => (isPart ? 'it answers for others' : null)),
      forIt('strong', (facts) => (saysNothing(facts) ? 'a fresh connection was taken, and stayed silent, too' : null)),
      forIt('clear', workedText),
      against('strong', (facts) => otherService(facts)),
      against('clear', ({ packet }) => (packet && packet.passes < packet.own ? 'small packets pass, and large ones do not' : null)),
    ],
  },
  {
    id: 'packet-size',
    side: 'network',
    explains: stoppedBy(
      ...([
        'modbus.silent',
        'iso.silent',
        'opcua.late',
        'opcua.silent-hello',
        'sql.silent',
        'http.silent',
        'mqtt.silent',
        'tcp.closed',
      ] as const),
      ...(['mqtt.tls', 'http.tls', 'sql.tls', 'opcua.refused', 'bacnet.silent'] as const),
    ),
    title: ({ packet }) => `Packets of more than ${packet?.passes ?? ''} bytes get lost on the way.`,
    where: (facts) => `Between here and ${hostText(facts)}`,
    next: ({ packet }) => [
      `Set the packet size of this machine’s interface to ${packet?.passes ?? 'what passes'}: ip link set dev NAME mtu ${packet?.passes ?? 1400}`,
      'Or let the tunnel or router on the way tell its size (ICMP “fragmentation needed”), which a firewall may swallow.',
    ],
    signs: [
      forIt('proof', ({ packet }) =>
        packet && packet.passes < packet.own ? `of ${packet.own} bytes that our network takes, ${packet.passes} pass whole` : null,
      ),
      against('proof', ({ packet }) => (packet && packet.passes >= packet.own ? 'packets of full size pass' : null)),
      against('clear', ({ packet }) => (packet ? null : 'the size of packets was not measured')),
    ],
  },
]

/** A connection that nobody takes was asked for several times (RFC 9293, 3.8.1): a few lost packets do not make that silent. */
const explainsSilence = ({ fault, echoes }: Facts): boolean =>
  fault.code !== 'tcp.no-answer' || (echoes !== undefined && echoes.answered <= 0.8 * echoes.sent)

const closedSoon = ({ ms, fault }: Facts): string | null =>
  ms === null || ms < 2000
    ? `it closed the connection ${ms === null ? 'at once' : `after ${duration(ms)}`}${fault.evidence ? ` (${fault.evidence})` : ''}`
    : null
