import type { Reference } from '../links/reference'
import { dataTypes } from '../tags/types'
import { knownErrors } from './codes'
import type { IoLinkSettings } from './settings'

const wholes = dataTypes.filter((type) => /^u?int\d+$/.test(type))

/** Addresses, limits and errors of masters of smart sensors, as this link has them. */
export const ioLinkReference = ({ interval, parameters, look, ports }: IoLinkSettings): Reference => ({
  notation: [
    { form: '1:in/16+16', about: 'port 1, process data in: 16 bits from bit 16 on, counted from the last bit as descriptions do' },
    { form: '1:out/0+1', about: 'the same of the process data out' },
    { form: '1:parameter/80', about: 'a parameter by its index, as long as it comes' },
    { form: '1:parameter/80.2', about: 'a part of it, by its subindex' },
    { form: '1:parameter/80/4+3', about: 'bits of a parameter without parts of its own' },
    { form: '1:state', about: 'how the port is, in the words of the standard' },
    { form: '1:events', about: 'what its device reports and has not taken back' },
  ],
  places: [
    { name: 'in', about: 'what the device measures', types: [...wholes, 'float32', 'bool', 'string'], usual: 'int16', writable: false },
    { name: 'out', about: 'what the device is told', types: [...wholes, 'float32', 'bool', 'string'], usual: 'bool', writable: true },
    { name: 'parameter', about: 'settings and facts of the device', types: [...wholes, 'float32', 'bool', 'string'], usual: 'string', writable: true }, // prettier-ignore
    { name: 'state', about: 'how the port is', types: ['string'], usual: 'string', writable: false },
    { name: 'events', about: 'codes and texts, empty where there are none', types: ['string'], usual: 'string', writable: false },
  ],
  limits: [
    { what: 'Process data', is: `256 bits each way at most; read as a whole every ${interval.toLocaleString('en-GB')} ms, unless a tag wants them more often` }, // prettier-ignore
    { what: 'A parameter', is: `232 bytes at most; read every ${parameters.toLocaleString('en-GB')} ms` },
    { what: 'Ports', is: `looked at every ${look.toLocaleString('en-GB')} ms` },
    ...ports.map(({ port, vendorId, deviceId }) => ({ what: `Port ${port}`, is: `belongs to vendor ${vendorId}, device ${deviceId}` })),
  ],
  errors: knownErrors.map(([code, meaning]) => ({ code: String(code), ...meaning })),
})
