import { entry, type Peer } from './entry'

/** Modbus (Application Protocol V1.1b3, 7). */
export const modbusFaults = {
  'modbus.silent': entry<{ unit: number; ms: number }>(
    'device',
    (e) => `Unit ${e.unit} did not reply within ${e.ms} ms.`,
    (e) =>
      `The connection is open, so it is the unit: check that ${e.unit} is its number, and its power and wiring behind the gateway. A slow one needs a longer “answers within”.`,
  ),
  'modbus.broadcast-read': entry(
    'entry',
    () => 'Unit 0 is all units of a line, which obey and do not answer: nothing can be read there.',
    () => 'Name the unit to read from, as in 3:holding/40.',
  ),
  'modbus.unusable': entry<{ unit: number; ms: number; came: string }>(
    'device',
    (e) => `Unit ${e.unit} did not give the reply that was asked for within ${e.ms} ms. What came: ${e.came}.`,
    () =>
      'Something answers, and not as the standard has it: look at the gateway’s settings for unit numbers and queues, and at other masters on its line.',
  ),
  'modbus.dead-connection': entry<Peer & { requests: number; came: string }>(
    'device',
    (e) =>
      e.came
        ? `${e.requests} requests in a row to ${e.host}:${e.port} got no reply that belongs to them. What came: ${e.came}.`
        : `${e.requests} requests in a row to ${e.host}:${e.port} got no reply at all.`,
    () => 'The connection is opened anew by itself. If it goes on, the unit behind it is off, or the gateway has lost it.',
  ),
  'modbus.not-modbus': entry<Peer & { service: string }>(
    'device',
    (e) => `What answers on ${e.host}:${e.port} is ${e.service}, not Modbus TCP.`,
    (e) => `Port ${e.port} belongs to another service there. Look up the port of its Modbus server; the usual one is 502.`,
  ),
  'modbus.flood': entry<Peer & { frames: number }>(
    'device',
    (e) => `${e.host}:${e.port} sends more than ${e.frames} frames a second that nobody asked for.`,
    () =>
      'The connection was ended, and is tried again with growing pauses. A gateway that repeats what is on its line, or one gone wild, has to be restarted.',
  ),
  'modbus.place-taken': entry<Peer & { links: string }>(
    'device',
    (e) => `${e.host}:${e.port} closed the connection, while our own link ${e.links} holds one.`,
    () =>
      'A device that takes one connection only is held by that link, and nothing is wrong. To look at it separately, switch that link off for the moment.',
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
