import { entry } from './entry'

interface Port {
  device: string
}

/** Serial ports of the machine on which the engine runs. */
export const serialFaults = {
  'serial.none': entry<Port & { there: string }>(
    'here',
    (e) => `This machine has no serial port ${e.device}.`,
    (e) =>
      `Check the name, and that an adapter is plugged in.${e.there ? ` Ports that are there: ${e.there}.` : ' It has no serial port at all now.'}`,
  ),
  'serial.taken': entry<Port>(
    'here',
    (e) => `${e.device} is held by another program, or by another link.`,
    () => 'A serial port belongs to one alone: end the other program, or give both devices units on one link.',
  ),
  'serial.denied': entry<Port>(
    'here',
    (e) => `The engine has no right to open ${e.device}.`,
    () => 'Let its user belong to the group of serial ports; on most systems that is dialout.',
  ),
  'serial.no-port': entry<Port>(
    'here',
    (e) => `${e.device} is there and is no serial port.`,
    () => 'Name the device of the port itself, such as /dev/ttyS0 or /dev/ttyUSB0.',
  ),
  'serial.gone': entry<Port>(
    'here',
    (e) => `The serial port ${e.device} failed or was pulled out.`,
    () => 'It is opened again with growing pauses. Look at the adapter and its plug.',
  ),
} as const
