import { errorCodes } from './names/errorCodes'
import type { ErrorCode } from './services'

/** What devices answer instead of values, in words (ANSI/ASHRAE 135, clause 18). */
export interface Meaning {
  words: string
  next: string
}

const classes = ['device', 'object', 'property', 'resources', 'security', 'services', 'vt', 'communication']

/** Error codes that decide what becomes of a point. */
export const code = {
  writeAccessDenied: 40,
  unknownObject: 31,
  unknownProperty: 32,
  invalidDataType: 9,
  valueOutOfRange: 37,
  invalidIndex: 42,
  notAnArray: 50,
  readAccessDenied: 27,
  optionalNotSupported: 45,
  covSubscriptionFailed: 43,
  notCovProperty: 44,
  accessDenied: 85,
  unknownSubscription: 79,
  noSpaceForElement: 19,
  noSpaceForObject: 18,
  unrecognizedService: 67,
} as const

const errors: Record<number, Meaning> = {
  [code.unknownObject]: {
    words: 'there is no such object',
    next: 'Compare type and number with the list of objects of this device; it may have been loaded anew since.',
  },
  [code.unknownProperty]: {
    words: 'the object has no such property',
    next: 'Look at the object where the link is browsed, and take a property that it has.',
  },
  [code.writeAccessDenied]: {
    words: 'it may not be written',
    next: 'Inputs and what the device makes itself can only be read. Where it should be writable, look at the rights in the device.',
  },
  [code.invalidDataType]: { words: 'the value is of another type than the property', next: 'Choose the type that the property has.' },
  [code.valueOutOfRange]: { words: 'the value is outside of what it takes', next: 'Stay within its limits, as min-pres-value and max-pres-value.' }, // prettier-ignore
  [code.invalidIndex]: { words: 'the array has no such element', next: 'Element 0 is its length; elements begin at 1.' },
  [code.notAnArray]: { words: 'the property is no array', next: 'Leave the element out.' },
  [code.readAccessDenied]: { words: 'it may not be read', next: 'Look at the rights in the device.' },
  [code.optionalNotSupported]: {
    words: 'the device does not offer this',
    next: 'Leave out what it does not know: an element, or a priority.',
  },
  [code.covSubscriptionFailed]: {
    words: 'it takes no further subscription',
    next: 'It has places for so many only. End those of other programs, or switch notifications off for tags that may be polled.',
  },
  [code.notCovProperty]: { words: 'it does not notify of changes of this', next: 'Switch notifications off for this tag: it is polled.' },
  [code.accessDenied]: { words: 'access is refused', next: 'Look at the rights in the device.' },
  [code.noSpaceForElement]: {
    words: 'it has no place left for another subscription',
    next: 'End those of other programs, or switch notifications off for tags that may be polled.',
  },
}

/** As in `property: unknown-property`. */
export const errorText = ({ class: group, code: number }: ErrorCode) =>
  `${classes[group] ?? `class ${group}`}: ${errorCodes.get(number) ?? `code ${number}`}`

export const errorMeaning = ({ code: number }: ErrorCode): Meaning =>
  errors[number] ?? {
    words: errorCodes.get(number)?.replaceAll('-', ' ') ?? 'a code that the standard does not name',
    next: 'Look it up in the manual of the device.',
  }

const rejects: readonly Meaning[] = [
  { words: 'for a reason of its own', next: 'Look at the log of the device.' },
  { words: 'its buffer is too small', next: 'Ask for fewer objects at once: lower “objects in a request”.' },
  { words: 'the parts of the request contradict each other', next: 'Look at priority, element and increment.' },
  { words: 'a part of the request is of the wrong type', next: 'Choose the type that the property has.' },
  { words: 'a tag of the request is not one it knows', next: 'It may be of an older version of the standard; read with single requests.' },
  { words: 'a part is missing', next: 'It may be of another version of the standard.' },
  { words: 'a part is outside of its range', next: 'Look at priority, lifetime and element.' },
  { words: 'there are too many parts', next: 'Lower “objects in a request”.' },
  { words: 'a word of the request is none that it knows', next: 'It may be of another version of the standard.' },
  { words: 'it does not know this service', next: 'It works with simpler ones; nothing has to be done.' },
]
export const reject = { bufferOverflow: 1, tooManyArguments: 7, unrecognizedService: 9 } as const

const aborts: readonly Meaning[] = [
  { words: 'for a reason of its own', next: 'Look at the log of the device.' },
  { words: 'its buffer is too small for the answer', next: 'Lower “objects in a request”.' },
  { words: 'the message does not fit what it was doing', next: 'It is tried again by itself.' },
  { words: 'something more urgent came between', next: 'It is tried again by itself.' },
  { words: 'the answer is longer than one message, and it cannot send parts', next: 'It is asked for less at a time by itself.' },
  { words: 'for reasons of security', next: 'Look at the rights in the device.' },
  { words: 'the connection is not secure enough for it', next: 'Look at the rights in the device.' },
  { words: 'the number of parts at once does not suit it', next: 'Look at its manual.' },
  { words: 'it was not ready in time', next: 'Ask less often, or for fewer objects at once.' },
  { words: 'it is out of resources', next: 'Ask less often, or for fewer objects at once.' },
  { words: 'a part of the answer was lost', next: 'It is tried again by itself.' },
  { words: 'the request is longer than it takes', next: 'Lower “objects in a request”.' },
]
export const abort = { bufferOverflow: 1, noSegmentation: 4, outOfResources: 9, tooLong: 11 } as const

const unknown: Meaning = { words: 'for a reason that the standard does not name', next: 'Look it up in the manual of the device.' }
export const rejectMeaning = (reason: number): Meaning => rejects[reason] ?? unknown
export const abortMeaning = (reason: number): Meaning => aborts[reason] ?? unknown

/** Why a broadcast manager refused (J.2.1.1); null: it did not. */
export const resultWords = (result: number): string | null =>
  result === 0
    ? null
    : ({ 0x30: 'it does not take foreign devices', 0x60: 'it does not pass broadcasts on' }[result] ?? `code 0x${result.toString(16)}`)

/** Those that have words, for looking up. */
export const namedCodes = [
  ...Object.entries(errors).map(([number, meaning]) => ({ code: `error ${number}, ${errorCodes.get(Number(number)) ?? ''}`, ...meaning })),
  ...rejects.map((meaning, reason) => ({ code: `reject ${reason}`, ...meaning })),
  ...aborts.map((meaning, reason) => ({ code: `abort ${reason}`, ...meaning })),
]
