import type { Reference } from '../links/reference'
import { areaLetter, areas, defaultType, isCounted, isWritable, typesOf } from './address'
import { namedCodes } from './codes'
import { forms, formText } from './layout'
import { roomIn } from './pdu'
import type { IsoTcpSettings } from './settings'

const about: Record<(typeof areas)[number], string> = {
  block: 'data blocks with a number each; only those with fixed addresses',
  input: 'the image of the inputs',
  output: 'the image of the outputs',
  flag: 'the memory that programs share',
  timer: 'what is left of a timer, in ms',
  counter: 'what a counter has counted, 0 to 999',
}

/** Addresses, types, limits and codes of controllers over ISO-on-TCP, as this link has them. */
export const isoTcpReference = ({ requests }: IsoTcpSettings): Reference => ({
  notation: [
    { form: 'DB10.4', about: 'block 10, from byte 4 on; the type says how far' },
    { form: 'DB10.4.0', about: 'the lowest bit of that byte' },
    { form: 'DB10.DBX4.0, DB10.DBB4, DB10.DBW4, DB10.DBD4', about: 'the same with the width in a letter: bit, byte, word, double word' },
    { form: 'I0.3, QB2, MW20, %MD24', about: 'inputs, outputs and flags in the letters of IEC 61131-3' },
    { form: 'T5, C7', about: 'timers and counters by their number' },
    ...forms.map((form) => ({ form, about: formText[form] })),
  ],
  places: areas.map((area) => {
    const address = { area, block: 0, offset: 0, bit: null, width: null }
    const types = isCounted(area) ? typesOf(address) : [...typesOf({ ...address, bit: 0 }), ...typesOf(address)]
    return { name: `${areaLetter[area]}, ${area}`, about: about[area], types, usual: defaultType(address), writable: isWritable(area) }
  }),
  limits: [
    { what: 'A request or answer', is: `${requests.size} bytes are asked for, and what the controller grants holds` },
    { what: 'One value in one piece', is: `${roomIn(requests.size).read} bytes at that size; a longer one is read in several` },
    { what: 'Pieces in one request', is: String(roomIn(requests.size).pieces) },
    { what: 'Gaps read across', is: `${requests.readAcross} bytes` },
    { what: 'Times', is: 'have no zone in a controller, and are taken as UTC' },
  ],
  errors: namedCodes,
})
