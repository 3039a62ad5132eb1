import { against, forIt, stoppedBy, type Rule } from '../rule'
import { changeSaid, hostText, lossText, workedText } from '../words'
import { otherService } from './greeted'
import { named, says, told } from './named'

/** What only the protocols of devices know: units, racks and slots, device numbers. */
export const deviceRules: Rule[] = [
  // Modbus
  {
    id: 'unit-wrong',
    side: 'entry',
    explains: (facts) =>
      stoppedBy('modbus.silent', 'modbus.unusable')(facts) ||
      (stoppedBy('modbus.exception')(facts) && says(facts, /exception 1[01],/) !== null),
    title: (facts) => `No unit of this number is behind ${hostText(facts)}.`,
    where: (facts) => `In these settings, or in the gateway ${hostText(facts)}`,
    next: () => [
      'Read the unit’s number from its own settings, and compare it with the one here.',
      'Look at the gateway’s table of units, if it has one.',
    ],
    signs: [
      forIt('hint', ({ isPart }) => (isPart ? 'others behind the same connection answer' : null)),
      forIt('proof', (facts) => says(facts, /exception 10,/)),
      forIt(
        'clear',
        (facts) =>
          says(facts, /exception 11,/) ??
          (facts.fault.code === 'modbus.silent' ? 'the connection stands, and nobody answers for this number' : null),
      ),
      forIt('clear', (facts) => changeSaid(facts, 'revision')),
      against('clear', workedText),
      against('strong', (facts) => (facts.greeting === null ? 'a fresh connection stays silent for every number' : null)),
    ],
  },
  {
    id: 'unit-off',
    side: 'device',
    explains: (facts) =>
      stoppedBy('modbus.silent', 'modbus.dead-connection')(facts) ||
      (stoppedBy('modbus.exception')(facts) && says(facts, /exception 11,/) !== null),
    title: (facts) => `The unit behind ${hostText(facts)} is off, or its line is broken.`,
    where: (facts) => `At the unit behind ${hostText(facts)}`,
    next: () => [
      'Look at its power, at both wires of the line and at the resistors at its ends.',
      'Compare speed, parity and stop bits with those of the gateway.',
      'Two units with one number disturb each other: disconnect one.',
    ],
    signs: [
      forIt('strong', ({ isPart }) => (isPart ? 'the connection stands, and others behind it answer' : null)),
      forIt('proof', (facts) => says(facts, /exception 11,/)),
      forIt('strong', (facts) =>
        workedText(facts) && facts.fault.code !== 'modbus.exception' ? `${workedText(facts)}, and the connection itself stands` : null,
      ),
      against('strong', (facts) => (facts.greeting === null ? 'a fresh connection stays silent for every number' : null)),
    ],
  },
  named({
    id: 'answers-foreign',
    side: 'device',
    explains: stoppedBy('modbus.unusable', 'modbus.flood'),
    title: (facts) => `${hostText(facts)} sends replies that belong to somebody else.`,
    where: (facts) => `On ${hostText(facts)}`,
    next: () => [
      'Look at the settings of the gateway for unit numbers and queues; its firmware may mix up replies of several clients.',
      'Look for a second master on its line.',
      'Raise “answers within” if replies merely come late.',
    ],
    signs: [against('proof', otherService)],
  }),
  {
    id: 'round-too-long',
    side: 'entry',
    explains: stoppedBy('link.lags'),
    title: ({ fault }) => fault.what,
    where: () => 'In these settings, or in the intervals of its tags',
    next: ({ fault }) => [fault.next, 'If it was quick before: look at its line, at other masters, and at its load.'],
    signs: [forIt('proof', told), against('strong', (facts) => (lossText(facts) ? 'packets get lost, and each is waited for' : null))],
  },
  {
    id: 'device-busy',
    side: 'device',
    explains: (facts) =>
      (stoppedBy('modbus.exception')(facts) && says(facts, /exception (4|5|6|8),/) !== null) ||
      (stoppedBy('http.busy')(facts) && says(facts, /status 429|HTTP 429/) !== null) ||
      stoppedBy('cloud.throttled')(facts) ||
      (stoppedBy('iso.request')(facts) && says(facts, /8304|resources/) !== null) ||
      stoppedBy('opcua.too-many')(facts),
    title: (facts) => `${hostText(facts)} is asked for more than it can do.`,
    where: (facts) => `In these settings, or on ${hostText(facts)}`,
    next: ({ fault }) => ['Lengthen the intervals, or lower how much is asked for at once.', 'End other clients of it.', fault.next],
    signs: [forIt('proof', told)],
  },
  // controllers over ISO-on-TCP
  {
    id: 'rack-slot-wrong',
    side: 'entry',
    explains: stoppedBy('iso.refused-place', 'iso.negotiation'),
    title: (facts) => `Rack, slot or TSAP is not that of the controller at ${hostText(facts)}.`,
    where: () => 'In these settings',
    next: () => [
      'Read rack and slot of the processor from its hardware configuration; compact ones mostly are in slot 1, modular ones in slot 2.',
      'Try another kind of connection.',
    ],
    signs: [
      forIt('strong', told),
      forIt('clear', ({ lastGood }) => (lastGood == null ? 'it never took a connection of ours' : null)),
      forIt('clear', (facts) => changeSaid(facts, 'revision')),
      against('strong', (facts) => (changeSaid(facts, 'revision') ? null : workedText(facts))),
      against('clear', (facts) => says(facts, /closed the connection at once/)),
      against('proof', otherService),
    ],
  },
  {
    id: 'controller-protected',
    side: 'device',
    explains: (facts) =>
      stoppedBy('iso.negotiation', 'iso.request', 'iso.piece')(facts) &&
      says(facts, /access|protection|password|8104|d241|d602|not allowed/i) !== null,
    title: () => 'The protection of the controller does not let us read.',
    where: (facts) => `In the program of ${hostText(facts)}`,
    next: () => [
      'Allow access from outside in its settings, and load them.',
      'Blocks that it lays out itself have no addresses: switch that off for this block.',
    ],
    signs: [forIt('proof', told)],
  },
  named({
    id: 'block-missing',
    side: 'entry',
    explains: (facts) => stoppedBy('iso.piece')(facts) && says(facts, /no such block|past the end|type does not fit|not offered/) !== null,
    title: ({ fault }) => fault.what,
    where: (facts) => `In the tag, or in the program of ${hostText(facts)}`,
  }),
  // BACnet/IP
  named({
    id: 'device-number-twice',
    side: 'device',
    explains: stoppedBy('bacnet.duplicate'),
    title: ({ fault }) => fault.what,
    where: () => 'At one of the two devices',
  }),
  named({
    id: 'device-number-other',
    side: 'entry',
    explains: stoppedBy('bacnet.other-device'),
    title: ({ fault }) => fault.what,
    where: () => 'In these settings, or at the device',
  }),
  {
    id: 'broadcast-ends',
    side: 'network',
    explains: stoppedBy('bacnet.nobody', 'bacnet.not-found'),
    title: () => 'Broadcasts do not reach the devices: they end at the router.',
    where: () => 'In these settings',
    next: () => [
      'Give the addresses of the devices in the settings of the link.',
      'Or take part as a foreign device through a broadcast manager (BBMD) in their network.',
    ],
    signs: [
      forIt('clear', told),
      forIt('hint', ({ lastGood }) => (lastGood == null ? 'nobody ever answered' : null)),
      against('clear', workedText),
    ],
    unmeasured: () => 'In which network the devices are: their own settings tell.',
  },
  {
    id: 'udp-filtered',
    side: 'network',
    explains: stoppedBy('bacnet.nobody', 'bacnet.not-found', 'bacnet.silent'),
    title: (facts) => `UDP to ${hostText(facts)}, or its way back, is swallowed.`,
    where: () => 'At the firewall between, or on one of the two machines',
    next: () => ['Let UDP 47808 pass in both directions; answers to broadcasts come to that port, too.'],
    signs: [
      forIt('clear', ({ echo }) => (echo?.outcome === 'answers' ? 'the host answers an echo request' : null)),
      forIt('strong', ({ datagram }) => (datagram?.outcome === 'stopped' ? `a machine on the way says no: ${datagram.words}` : null)),
      forIt('strong', ({ datagram }) => (datagram?.outcome === 'answers' ? 'asked from another port of ours it answers' : null)),
      forIt('clear', workedText),
      against('proof', ({ datagram }) => (datagram?.outcome === 'refused' ? 'the question arrives: its machine refuses it' : null)),
    ],
  },
  {
    id: 'device-off',
    side: 'device',
    explains: stoppedBy('bacnet.silent', 'bacnet.not-found'),
    title: (facts) => `The device at ${hostText(facts)} is off or has another address.`,
    where: (facts) => `At ${hostText(facts)}`,
    next: () => ['Look at its power and its network plug.', 'Read its number and address from its own settings.'],
    signs: [
      forIt('strong', ({ neighbour }) => (neighbour?.outcome === 'silent' ? 'nobody answers for its address on our segment' : null)),
      forIt('clear', ({ echo }) => (echo?.outcome === 'silent' ? 'it answers no echo request' : null)),
      against('strong', ({ echo }) => (echo?.outcome === 'answers' ? 'it answers an echo request' : null)),
      against('proof', ({ datagram }) => (datagram?.outcome === 'refused' ? 'its machine is on: it refuses the question' : null)),
      against('strong', ({ datagram }) => (datagram?.outcome === 'answers' ? 'asked from another port of ours it answers' : null)),
    ],
  },
  named({
    id: 'own-udp-port',
    side: 'here',
    explains: (facts) => stoppedBy('bacnet.port')(facts) || (stoppedBy('port.in-use')(facts) && facts.goal?.carries === 'udp'),
    title: ({ fault }) => fault.what,
    where: () => 'On this machine',
    next: ({ fault }) => ['See who holds it: ss -lunp, ss -ltnp', fault.next],
  }),
  named({
    id: 'manager-refuses',
    side: 'device',
    explains: stoppedBy('bacnet.registration', 'bacnet.unrouted'),
    title: ({ fault }) => fault.what,
    where: () => 'At the broadcast manager or router',
  }),
]
