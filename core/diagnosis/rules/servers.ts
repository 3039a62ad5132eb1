import { against, forIt, stoppedBy, type Rule } from '../rule'
import { hostText } from '../words'
import { named, says, told } from './named'

/** What only the protocols of servers know: endpoints and sessions, brokers, databases. */
export const serverRules: Rule[] = [
  // OPC UA, and notifications of whatever protocol
  named({
    id: 'security-not-offered',
    side: 'entry',
    explains: stoppedBy('opcua.no-endpoint', 'opcua.identity-not-offered', 'opcua.password-in-clear'),
    title: ({ fault }) => fault.what,
    where: () => 'In these settings',
  }),
  named({
    id: 'endpoint-address',
    side: 'entry',
    explains: stoppedBy('opcua.hello-refused', 'opcua.endpoints-refused'),
    title: ({ fault }) => fault.what,
    where: (facts) => `In these settings, or on ${hostText(facts)}`,
  }),
  named({
    id: 'notifications-lost',
    side: 'network',
    explains: stoppedBy('opcua.silent-publish', 'bacnet.not-notified', 'mqtt.swallowed'),
    title: (facts) => `What ${hostText(facts)} sends by itself does not arrive; what is asked for does.`,
    where: (facts) => `Between here and ${hostText(facts)}, or on it`,
    signs: [
      forIt('clear', ({ greeting }) => (greeting ? 'it answers what it is asked' : null)),
      against('hint', ({ filter }) => (filter?.outcome === 'lets through' ? 'the firewall of this machine lets it in' : null)),
    ],
  }),
  named({
    id: 'node-gone',
    side: 'device',
    explains: stoppedBy('opcua.no-node', 'opcua.no-namespace', 'opcua.no-member'),
    title: ({ fault }) => fault.what,
    where: (facts) => `In the tag, or in the program of ${hostText(facts)}`,
  }),
  named({
    id: 'server-not-running',
    side: 'device',
    explains: stoppedBy('opcua.not-running'),
    title: ({ fault }) => fault.what,
    where: (facts) => `On ${hostText(facts)}`,
  }),
  // MQTT
  named({
    id: 'session-taken-over',
    side: 'device',
    explains: stoppedBy('mqtt.taken-over'),
    title: () => 'Another client has the same client id; each throws the other out.',
    where: () => 'In these settings, or in the other client',
    next: () => [
      'Give this link a client id of its own, or leave it empty.',
      'Look in the broker’s log from which address the other one comes.',
    ],
  }),
  named({
    id: 'broker-version',
    side: 'entry',
    explains: stoppedBy('mqtt.version', 'mqtt.websocket'),
    title: ({ fault }) => fault.what,
    where: () => 'In these settings',
  }),
  {
    id: 'same-client-id',
    side: 'device',
    explains: (facts) =>
      stoppedBy('mqtt.closed', 'mqtt.ended')(facts) || (stoppedBy('link.unsteady')(facts) && facts.goal?.speaks === 'MQTT'),
    title: () => 'Another client may have the same client id; an older broker ends a connection without saying so.',
    where: () => 'In these settings, or in the other client',
    next: () => ['Give this link a client id of its own, and see whether the connection holds.', 'Look in the broker’s log.'],
    signs: [
      forIt('strong', ({ breaks = [] }) =>
        breaks.length >= 3 && breaks.every(({ heldMs }) => heldMs < 15_000)
          ? `the last ${breaks.length} connections held for seconds only`
          : null,
      ),
      against('clear', ({ breaks = [] }) => (breaks.length >= 3 ? null : 'it did not happen again and again')),
    ],
  },
  {
    id: 'service-unavailable',
    side: 'device',
    explains: (facts) =>
      (stoppedBy('http.busy')(facts) && says(facts, /HTTP 50[234]/) !== null) ||
      (stoppedBy('mqtt.refused')(facts) && says(facts, /0x03, Server unavailable|0x88|0x89/) !== null),
    title: (facts) => `${hostText(facts)} works, and has nothing to serve us with at the moment.`,
    where: (facts) => `On ${hostText(facts)}, or behind it`,
    next: () => ['Look at the services that stand behind it, and at its log of this minute.', 'It is tried again by itself.'],
    signs: [forIt('proof', told)],
  },
  // web APIs
  named({
    id: 'service-broken',
    side: 'device',
    explains: (facts) => stoppedBy('http.busy', 'http.refused')(facts) && says(facts, /HTTP 50[015-9]/) !== null,
    title: (facts) => `${hostText(facts)} failed on our call.`,
    where: (facts) => `On ${hostText(facts)}`,
    next: () => [
      'Give its owner the time of the call: its log says on what it failed.',
      'If only one call fails, compare what is sent with its description.',
    ],
  }),
  named({
    id: 'no-such-address',
    side: 'entry',
    explains: (facts) => stoppedBy('http.refused')(facts) && says(facts, /HTTP (404|405|410)/) !== null,
    title: (facts) => `${hostText(facts)} has nothing at this address.`,
    where: () => 'In these settings',
    next: ({ fault }) => [fault.next, 'Mind the part that all addresses begin with: versions stand there (“/v1”).'],
  }),
  // databases
  named({
    id: 'database-missing',
    side: 'entry',
    explains: (facts) => stoppedBy('sql.refused')(facts) && says(facts, /3D000|1049|no such database/) !== null,
    title: ({ fault }) => fault.what,
    where: () => 'In these settings, or in the database',
  }),
  named({
    id: 'database-full',
    side: 'device',
    explains: (facts) => says(facts, /53100|disk is full|1114|1021|HY000.*full|No space left/i) !== null,
    title: (facts) => `The disk of the database at ${hostText(facts)} is full.`,
    where: (facts) => `On ${hostText(facts)}`,
    next: () => ['Make room there: old logs, old rows, a larger disk.', 'What bridges keep is sent by itself afterwards.'],
  }),
  named({
    id: 'database-connections',
    side: 'device',
    explains: (facts) => says(facts, /53300|1040|too many (clients|connections)/i) !== null,
    title: (facts) => `The database at ${hostText(facts)} has no connection left.`,
    where: (facts) => `On ${hostText(facts)}`,
    next: () => ['End clients that hold connections without need, or raise its limit.', 'Lower “connections” of this link.'],
  }),
  named({
    id: 'database-read-only',
    side: 'device',
    explains: (facts) => says(facts, /25006|read-only transaction|1290|read_only/i) !== null,
    title: (facts) => `The database at ${hostText(facts)} takes no changes: it is read only.`,
    where: (facts) => `On ${hostText(facts)}`,
    next: () => ['It may be the standby of another: enter the address of the one that writes.', 'Or have read only switched off there.'],
  }),
  named({
    id: 'database-locked',
    side: 'device',
    explains: (facts) => says(facts, /55P03|40P01|1205|1213|lock (timeout|wait)|deadlock|57014/i) !== null,
    title: () => 'Another program holds the rows or the table.',
    where: (facts) => `On ${hostText(facts)}`,
    next: () => ['See who: select * from pg_stat_activity, or show processlist.', 'End it there, or let its transactions be shorter.'],
  }),
  named({
    id: 'database-starting',
    side: 'device',
    explains: (facts) => says(facts, /57P0[123]|starting up|shutting down/i) !== null,
    title: (facts) => `The database at ${hostText(facts)} is starting or stopping.`,
    where: (facts) => `On ${hostText(facts)}`,
    next: () => ['Wait a minute; it is tried again by itself.'],
  }),
  named({
    id: 'no-such-table',
    side: 'entry',
    explains: stoppedBy('sql.no-table'),
    title: ({ fault }) => fault.what,
    where: () => 'In the bridge or record set, or in the database',
  }),
]
