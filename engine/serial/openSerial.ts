import type { Duplex } from 'node:stream'
import { SerialPort } from 'serialport'
import type { SerialPortSettings } from '#core/contracts/serial'
import { fault } from '#core/faults/catalogue'
import { within } from '#pacing/within'
import { serialFault } from './faults'
import { machinePorts } from './machinePorts'

/** The package’s own does not let go of the port where its stream is destroyed. */
class HeldPort extends SerialPort {
  override _destroy(error: Error | null, done: (error: Error | null) => void) {
    if (this.isOpen) this.close(() => done(error))
    else done(error)
  }
}

/** Ports that we hold, by device: one that is being given back is waited for, and not taken for somebody else’s. */
const held = new Map<string, { port: HeldPort; ended: Promise<unknown> }>()
const givenBackWithinMs = 2000

/** Opens a serial port for us alone. Rejects with a Fault, within the time. */
export const openSerial = async (settings: SerialPortSettings, withinMs: number): Promise<Duplex> => {
  const { device, baud, dataBits, parity, stopBits } = settings
  await givenBack(device)
  const port = new HeldPort({ path: device, baudRate: baud, dataBits, parity, stopBits, lock: true, autoOpen: false })
  port.on('error', () => {})
  const problem = await opened(port, withinMs)
  if (problem === null) {
    // an error of a port that is being lost is no end yet, and nobody may be waiting for it
    held.set(device, { port, ended: new Promise((resolve) => port.once('close', resolve)) })
    port.once('close', () => {
      port.destroy()
      if (held.get(device)?.port === port) held.delete(device)
    })
    return port
  }
  if (problem === 'late') port.destroy()
  throw problem === 'late'
    ? fault('serial.gone', { device }, `not open within ${withinMs} ms`)
    : serialFault(problem, device, await machineDevices())
}

/** Null: it is open. */
const opened = (port: HeldPort, withinMs: number): Promise<Error | 'late' | null> =>
  new Promise((resolve) => {
    const timer = setTimeout(() => resolve('late'), withinMs)
    port.open((error) => {
      clearTimeout(timer)
      resolve(error)
    })
  })

const givenBack = async (device: string) => {
  const known = held.get(device)
  if (known?.port.destroyed) await within(givenBackWithinMs, known.ended).catch(() => {})
}

const machineDevices = async (): Promise<string[]> => (await machinePorts()).map(({ device }) => device)
