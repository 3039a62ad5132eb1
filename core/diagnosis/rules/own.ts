import { forIt, stoppedBy, type Rule } from '../rule'
import { named, says } from './named'

/** What is wrong with this machine itself. */
export const ownRules: Rule[] = [
  named({
    id: 'disk-full',
    side: 'here',
    explains: (facts) =>
      stoppedBy('files.not-written', 'outlet.disk', 'write.not-kept', 'cloud.full', 'bridge.spool')(facts) &&
      says(facts, /ENOSPC|no space|full|EDQUOT/i) !== null,
    title: () => 'The disk of this machine is full.',
    where: () => 'On this machine',
    next: () => ['See what takes room: df -h, du -xh --max-depth=2 /', 'Make room; what is kept goes on by itself.'],
  }),
  named({
    id: 'own-firewall-in',
    side: 'here',
    explains: stoppedBy('outlet.firewall'),
    title: ({ fault }) => fault.what,
    where: () => 'On this machine',
    signs: [forIt('proof', ({ fault }) => `its rule, read from this machine: ${fault.evidence}`)],
  }),
  named({
    id: 'port-taken',
    side: 'here',
    explains: stoppedBy('port.in-use', 'outlet.no-right', 'outlet.no-interface'),
    title: ({ fault }) => fault.what,
    where: () => 'On this machine',
    next: ({ fault }) => ['See who listens: ss -ltnp', fault.next],
  }),
  named({
    id: 'serial-port',
    side: 'here',
    explains: stoppedBy('serial.none', 'serial.taken', 'serial.denied', 'serial.no-port', 'serial.gone'),
    title: ({ fault }) => fault.what,
    where: () => 'On this machine',
  }),
]
