import { fault, type Fault } from '#core/faults/catalogue'

/** Why a serial port cannot be opened, or went away, from what the system says of it. */
export const serialFault = (error: Error, device: string, there: readonly string[] = []): Fault => {
  const text = error.message
  if (/no such file|ENOENT|cannot find/i.test(text)) return fault('serial.none', { device, there: there.join(', ') }, text)
  if (/lock|EBUSY|busy/i.test(text)) return fault('serial.taken', { device }, text)
  if (/permission|EACCES|EPERM/i.test(text)) return fault('serial.denied', { device }, text)
  if (/ENOTTY|inappropriate ioctl|not a tty/i.test(text)) return fault('serial.no-port', { device }, text)
  return fault('serial.gone', { device }, text)
}
