import { entry } from './entry'

/** Devices of building services over BACnet/IP (ANSI/ASHRAE 135). */
export const bacnetFaults = {
  'bacnet.port': entry<{ place: string; why: string }>(
    'here',
    (e) => `UDP ${e.place} of this machine cannot be opened: ${e.why}.`,
    () => 'End what holds the port, choose another local port, or an address that this machine has.',
  ),
  'bacnet.not-found': entry<{ device: number; ways: string; ms: number }>(
    'network',
    (e) => `Nobody answers for device ${e.device} (${e.ways}, ${e.ms} ms).`,
    () =>
      'It is off, of another number, or in a network that broadcasts do not reach: give its address in the settings of the link, or take part through a broadcast manager. A firewall may also swallow UDP.',
  ),
  'bacnet.nobody': entry<{ ways: string; ms: number }>(
    'network',
    (e) => `Nobody answered “who is there” (${e.ways}) within ${e.ms} ms.`,
    () =>
      'Broadcasts end at routers: give the addresses of devices, or a broadcast manager. Check the interface, the local port (answers come to the usual one) and the firewall of this machine.',
  ),
  'bacnet.silent': entry<{ device: string; place: string; ms: number; tries: number }>(
    'device',
    (e) => `Device ${e.device} at ${e.place} did not answer ${e.tries === 1 ? '' : `${e.tries} times `}within ${e.ms} ms.`,
    () => 'It is off, unplugged or busy, or UDP is swallowed on the way. A slow one needs a longer “answers within”.',
  ),
  'bacnet.not-sent': entry<{ device: string; place: string; problem: string }>(
    'here',
    (e) => `Nothing could be sent to device ${e.device} at ${e.place}: ${e.problem}.`,
    () => 'Check that the network interface of this link is there and up, and that this machine has a way to that address.',
  ),
  'bacnet.other-device': entry<{ wanted: number; place: string; found: number }>(
    'device',
    (e) => `At ${e.place} answers device ${e.found}, not ${e.wanted}.`,
    () => 'Correct the number or the address in the settings of the link; a device may have been exchanged.',
  ),
  'bacnet.duplicate': entry<{ device: number; places: string }>(
    'device',
    (e) => `Two devices say that they are ${e.device}: ${e.places}.`,
    () => 'Give one of them another number. Until then name the address of the right one in the settings of the link.',
  ),
  'bacnet.error': entry<{ place: string; code: string; words: string; next: string }>(
    'device',
    (e) => `The device refuses ${e.place}: ${e.words} (${e.code}).`,
    (e) => e.next,
  ),
  'bacnet.reject': entry<{ what: string; reason: number; words: string; next: string }>(
    'device',
    (e) => `The device rejects ${e.what}, ${e.reason}: ${e.words}.`,
    (e) => e.next,
  ),
  'bacnet.abort': entry<{ what: string; reason: number; words: string; next: string }>(
    'device',
    (e) => `The device gives up on ${e.what}, ${e.reason}: ${e.words}.`,
    (e) => e.next,
  ),
  'bacnet.malformed': entry<{ place: string; problem: string }>(
    'device',
    (e) => `What ${e.place} sent cannot be read: ${e.problem}.`,
    () => 'It is asked again. If it goes on, another kind of program answers there, or a device between changes what passes.',
  ),
  'bacnet.type': entry<{ place: string; type: string; got: string }>(
    'device',
    (e) => `${e.place} is ${e.got}, which is no ${e.type}.`,
    () => 'Choose the type that the property has.',
  ),
  'bacnet.none': entry<{ place: string }>(
    'device',
    (e) => `${e.place} holds nothing at present: null.`,
    () => 'At this priority, or of this property, there is no value; nothing has to be done.',
  ),
  'bacnet.unrouted': entry<{ network: number; router: string }>(
    'network',
    (e) => `The router ${e.router} cannot reach network ${e.network}.`,
    () => 'Look at the router, and at the line behind it.',
  ),
  'bacnet.registration': entry<{ place: string; why: string }>(
    'device',
    (e) => `The broadcast manager at ${e.place} does not take us: ${e.why}.`,
    () => 'Check its address, and whether foreign devices are allowed in its settings and places are left.',
  ),
  'bacnet.not-notified': entry<{ tags: string; device: number; place: string }>(
    'network',
    (e) => `Device ${e.device} took the subscription, and its notifications do not arrive here: ${e.tags}.`,
    (e) =>
      `Its answers come, so the way back is open only for what was asked: a firewall or an address translation between swallows what it sends by itself. Let UDP from ${e.place} to our local port pass, or choose confirmed notifications. Meanwhile it is polled.`,
  ),
  'bacnet.not-subscribed': entry<{ place: string; why: string; next: string }>(
    'device',
    (e) => `The device does not take a subscription to ${e.place}: ${e.why}. It is polled.`,
    (e) => e.next,
  ),
  'bacnet.no-priorities': entry<{ place: string }>(
    'entry',
    (e) => `${e.place} does not go by priorities.`,
    () => 'Only present values of outputs and of values that the maker made so have levels; nothing can be given back here.',
  ),
  'bacnet.too-long': entry<{ place: string; bytes: number; room: number }>(
    'entry',
    (e) => `What is to be written to ${e.place} takes ${e.bytes} bytes, and the device takes ${e.room} in a message.`,
    () => 'Write a shorter value.',
  ),
} as const
