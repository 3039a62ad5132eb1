import { z } from 'zod'
import { isVisible } from '../text/visible'

/** Parameters of a serial port. */

export const bauds = [300, 600, 1200, 2400, 4800, 9600, 19_200, 38_400, 57_600, 115_200, 230_400, 460_800] as const
export const parities = ['none', 'even', 'odd'] as const
export type Parity = (typeof parities)[number]

export const parityText: Record<Parity, string> = { none: 'none', even: 'even', odd: 'odd' }

const device = z
  .string({ error: 'A serial port is named by its device.' })
  .trim()
  .max(200, 'The name of a device has at most 200 characters.')
  .refine(
    (text) => /^\/dev\/[^/]/.test(text) && isVisible(text) && !text.includes('..'),
    'A serial port is a device, such as /dev/ttyUSB0.',
  )

export const serialFields = {
  device: device.describe('Such as /dev/ttyUSB0; names under /dev/serial/by-id stay the same when it is plugged in elsewhere.'),
  baud: z.literal(bauds, { error: `A speed is one of ${bauds.join(', ')} bit/s.` }).default(19_200),
  dataBits: z.literal([7, 8] as const, { error: 'Data bits are 7 or 8.' }).default(8),
  parity: z.enum(parities, { error: 'A parity is none, even or odd.' }).default('even'),
  stopBits: z.literal([1, 2] as const, { error: 'Stop bits are 1 or 2.' }).default(1),
}

export const serialPort = z.object(serialFields)
export type SerialPortSettings = z.output<typeof serialPort>

/** As the trade writes it: `19200 8E1`. */
export const serialText = ({ baud, dataBits, parity, stopBits }: Omit<SerialPortSettings, 'device'>): string =>
  `${baud} ${dataBits}${parity[0]!.toUpperCase()}${stopBits}`

/** Bits that one character takes on the line: start, data, parity, stop. */
const bitsOf = ({ dataBits, parity, stopBits }: Omit<SerialPortSettings, 'device'>) => 1 + dataBits + Number(parity !== 'none') + stopBits

/** How long characters take on the line, ms. */
export const charactersMs = (characters: number, port: Omit<SerialPortSettings, 'device'>): number =>
  (characters * bitsOf(port) * 1000) / port.baud
