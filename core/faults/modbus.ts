import { entry, type Peer } from './entry'

/** Modbus (Application Protocol V1.1b3, 7). */
export const modbusFaults = {
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
} as const
