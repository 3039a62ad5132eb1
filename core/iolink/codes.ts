/** Errors of the interface in words (JSON Integration for IO-Link, error codes). */
interface Meaning {
  words: string
  next: string
}

const errors: Record<number, Meaning> = {
  101: { words: 'an error of the master itself', next: 'Look at its log, or start it anew.' },
  102: { words: 'the master is busy', next: 'It is asked again by itself; ask less often if it goes on.' },
  103: { words: 'it does not offer this', next: 'Look at what its firmware offers.' },
  104: { words: 'this may not be done', next: 'Check name and password, and the rights of that user.' },
  201: { words: 'it could not read the request', next: 'The firmware may be of another version of the interface.' },
  202: { words: 'a value of the request is not one it takes', next: 'Compare the value with its range.' },
  203: { words: 'a value of the request is of the wrong type', next: 'Compare the value with its type.' },
  301: { words: 'there is nothing at this address', next: 'The firmware may be of another version of the interface.' },
  304: { words: 'this may not be done here', next: 'Look at the mode of the port.' },
  306: { words: 'there is no master of this number', next: 'Correct the number of the master in the settings of the link.' },
  307: { words: 'there is no port of this number', next: 'Correct the port in the address.' },
  308: { words: 'there is no device of this name', next: 'The port may have been named anew; it is looked up again by itself.' },
  309: { words: 'the device has no parameter of this index', next: 'Compare the index with the description of the device.' },
  310: { words: 'the device has no such part of the parameter', next: 'Compare the subindex with the description of the device.' },
  311: { words: 'the device is not to be reached', next: 'Look whether it is plugged in, and at its cable.' },
  312: { words: 'the device did not answer in time', next: 'Look at its cable; it is asked again by itself.' },
  313: { words: 'the device has no such process data', next: 'It may be another device, or in another mode.' },
  314: { words: 'the device refuses it', next: 'Compare with the description of the device: access, range, and what locks it.' },
  316: { words: 'the mode of the port does not allow this', next: 'Set the port to IO-Link on the master.' },
}

/** Every code that is known, for the reference. */
export const knownErrors = Object.entries(errors)

export const errorMeaning = (code: number): Meaning =>
  errors[code] ?? { words: 'a code that is not known here', next: 'Look it up in the manual of the master.' }
