import { entry } from './entry'

/** Masters of smart sensors and what is plugged into them (JSON Integration for IO-Link). */
export const ioLinkFaults = {
  'iolink.refused': entry<{ place: string; code: number; words: string; next: string }>(
    'device',
    (e) => `The master refuses ${e.place} with ${e.code}: ${e.words}.`,
    (e) => e.next,
  ),
  'iolink.malformed': entry<{ place: string; problem: string }>(
    'device',
    (e) => `What ${e.place} says is not what the interface of masters says: ${e.problem}.`,
    () => 'Check the address: it ends where the interface begins, usually in /iolink/v1. Another kind of server may answer there.',
  ),
  'iolink.empty': entry<{ port: number; words: string }>(
    'device',
    (e) => `No device is to be read at port ${e.port}: ${e.words}.`,
    () => 'Plug it in, look at its cable, and at the mode of the port on the master. It is read again by itself.',
  ),
  'iolink.wrong': entry<{ port: number; wanted: string; found: string }>(
    'device',
    (e) => `At port ${e.port} belongs ${e.wanted}, and ${e.found} is plugged in.`,
    () =>
      'Plug in the right one; or let the port belong to the new one, under “Ports” of the link. Until then none of its values is taken.',
  ),
  'iolink.layout': entry<{ port: number; index: number; wanted: string; found: string }>(
    'device',
    (e) =>
      `The process data at port ${e.port} lie otherwise now: its parameter ${e.index} is ${e.found}, and was ${e.wanted} when they were taken.`,
    () => 'Set the parameter back, or take the values of this port anew.',
  ),
  'iolink.invalid': entry<{ port: number; side: string }>(
    'device',
    (e) => `The device at port ${e.port} says that its process data ${e.side} are no values at present.`,
    () => 'It starts, or something keeps it from measuring: look at its events and its state. It is read again by itself.',
  ),
  'iolink.short': entry<{ address: string; bytes: number }>(
    'device',
    (e) => `${e.address} lies outside of what the device sends: ${e.bytes} bytes.`,
    () => 'Compare with the description of the device; another one may be plugged in, or it may be in another mode.',
  ),
  'iolink.type': entry<{ address: string; type: string; problem: string }>(
    'device',
    (e) => `${e.address} is no ${e.type}: ${e.problem}.`,
    () => 'Choose the type that its description gives.',
  ),
  'iolink.unwritten': entry<{ port: number; problem: string }>(
    'device',
    (e) => `The process data out at port ${e.port} cannot be changed in part: ${e.problem}.`,
    () => 'They are sent as a whole. Wait until the device was read once, or load its description.',
  ),
  'iolink.description': entry<{ file: string; line: number; problem: string }>(
    'entry',
    (e) => `“${e.file}” is no description of a device that can be read here: ${e.line > 0 ? `line ${e.line}: ` : ''}${e.problem}.`,
    () => 'Take the file as its maker gives it out: an IODD, as XML or zipped.',
  ),
  'iolink.undescribed': entry<{ port: number; device: string }>(
    'entry',
    (e) => `What the values of ${e.device} at port ${e.port} mean is not known here: its description is not loaded.`,
    () => 'Load its description (an IODD file of its maker) under Site, Device descriptions.',
  ),
} as const
