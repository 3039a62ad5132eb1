import { entry, type Peer } from './entry'

/** Between here and the far side. */
export const networkFaults = {
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
} as const
