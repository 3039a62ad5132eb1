/**
 * Addresses of values behind a port: `1:in/16+16` are 16 bits of the process data in, from bit 16 on, counted from the last
 * one as descriptions do; `1:out/0+1` the same of the data out; `1:parameter/80` a parameter, `.2` a part of it, `/4+3` bits of
 * one that has no parts of its own; `1:state` how the port is; `1:events` what its device reports and has not taken back.
 */
export type SensorAddress =
  | { port: number; of: 'in' | 'out'; bitOffset: number; bits: number }
  | { port: number; of: 'parameter'; index: number; subindex: number; bitOffset: number; bits: number }
  | { port: number; of: 'state' }
  | { port: number; of: 'events' }

export type ParsedAddress = { ok: true; address: SensorAddress } | { ok: false; problem: string }

const mostBits = 256
const form =
  /^(\d{1,3})\s*:\s*(?:(in|out)\/(\d{1,3})\+(\d{1,3})|parameter\/(\d{1,5})(?:\.(\d{1,3}))?(?:\/(\d{1,4})\+(\d{1,4}))?|(state|events))$/i

export const parseAddress = (text: string): ParsedAddress => {
  const found = form.exec(text.trim().toLowerCase())
  if (!found)
    return no('An address is port:in/bit+bits, as in 1:in/16+16, port:parameter/index, as in 1:parameter/80, port:state, or port:events.')
  const [, portText, side, offset, bits, index, subindex, partOffset, partBits, state] = found
  const port = Number(portText)
  if (port < 1 || port > 255) return no('A port has a number from 1 to 255.')
  if (state) return { ok: true, address: { port, of: state as 'state' | 'events' } }
  if (side) return ofProcessData(port, side as 'in' | 'out', Number(offset), Number(bits))
  if (Number(index) > 0xffff) return no('A parameter has an index from 0 to 65,535.')
  if (Number(subindex ?? 0) > 255) return no('A part of a parameter has a number from 0 to 255.')
  const placed = { bitOffset: Number(partOffset ?? 0), bits: Number(partBits ?? 0) }
  return { ok: true, address: { port, of: 'parameter', index: Number(index), subindex: Number(subindex ?? 0), ...placed } }
}

const ofProcessData = (port: number, of: 'in' | 'out', bitOffset: number, bits: number): ParsedAddress => {
  if (bits < 1) return no('At least one bit is read.')
  if (bitOffset + bits > mostBits) return no('Process data have 256 bits at most.')
  return { ok: true, address: { port, of, bitOffset, bits } }
}

const no = (problem: string): ParsedAddress => ({ ok: false, problem })

export const formatAddress = (address: SensorAddress): string => {
  switch (address.of) {
    case 'state':
    case 'events':
      return `${address.port}:${address.of}`
    case 'in':
    case 'out':
      return `${address.port}:${address.of}/${address.bitOffset}+${address.bits}`
    case 'parameter': {
      const part = address.subindex === 0 ? '' : `.${address.subindex}`
      const bits = address.bits === 0 ? '' : `/${address.bitOffset}+${address.bits}`
      return `${address.port}:parameter/${address.index}${part}${bits}`
    }
  }
}
