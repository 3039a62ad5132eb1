import { z } from 'zod'

export const machinePort = z
  .object({ device: z.string(), about: z.string().describe('What is plugged in, as far as its name tells.') })
  .meta({ id: 'SerialPort', description: 'A serial port of the engine’s machine.' })
export type MachinePort = z.output<typeof machinePort>
