import type { Reference } from '../links/reference'
import { namedCodes } from './codes'
import { objectTypes } from './names/objectTypes'
import type { BacnetSettings } from './settings'

/** Addresses, kinds of objects, limits and codes of BACnet, as this link has them. */
export const bacnetReference = ({ requests, notices, patience }: BacnetSettings): Reference => ({
  notation: [
    { form: '4001:analog-value/3', about: 'the present value of an object: device, kind and number' },
    { form: '4001:AV3', about: 'the same with the short form of the kind' },
    { form: '4001:AV3.units', about: 'another property of it, by the name of the standard' },
    { form: '4001:AV3.priority-array[8]', about: 'an element of an array, from 1; [0] is its length' },
    { form: '4001:device/4001.local-time', about: 'a property of the device itself' },
    { form: '4001:160/2.512', about: 'kinds and properties of a maker go by their numbers' },
  ],
  places: objectTypes.flatMap(({ name, title, short, value, commandable, writable }) =>
    value
      ? [
          {
            name: short ? `${short}, ${name}` : name,
            about: `${title.toLowerCase()}${commandable === 'always' ? ', written by priorities' : commandable ? ', written by priorities where the maker decided so' : ''}`,
            types: [value.type],
            usual: value.type,
            writable: commandable !== undefined || writable === true,
          },
        ]
      : [],
  ),
  limits: [
    { what: 'Objects in a request', is: `${requests.most} at most, and as many as the device takes in one message` },
    { what: 'An answer', is: `is waited for ${patience.answer} ms, and asked for ${patience.repeats + 1} times` },
    {
      what: 'Notifications',
      is:
        notices.kind === 'off'
          ? 'off, unless a tag asks for them'
          : `${notices.kind}, for ${notices.lifetime} s, compared each ${notices.compare} s`,
    },
    { what: 'Priorities', is: '1 (highest) to 16; a value goes where its level is the highest that is not null' },
    { what: 'Times', is: 'have no zone in a device, and are taken as UTC' },
  ],
  errors: namedCodes,
})
