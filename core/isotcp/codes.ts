/** What controllers answer instead of values, in words. */

export const itemCode = {
  ok: 0xff,
  hardware: 0x01,
  denied: 0x03,
  address: 0x05,
  unknownType: 0x06,
  otherType: 0x07,
  missing: 0x0a,
} as const

interface Meaning {
  words: string
  next: string
}

const ofItem: Record<number, Meaning> = {
  [itemCode.hardware]: { words: 'the hardware behind it has a fault', next: 'Look at the module behind this address and its wiring.' },
  [itemCode.denied]: {
    words: 'access is not allowed',
    next: 'The block is protected, or access from outside is switched off. Allow it in the program of the controller, and load that.',
  },
  [itemCode.address]: {
    words: 'the address is past the end of the block or the memory',
    next: 'Compare offset and length with the layout of the block; the program may have been loaded anew since.',
  },
  [itemCode.unknownType]: { words: 'this kind of access is not offered', next: 'Read the place as bytes: choose another type.' },
  [itemCode.otherType]: { words: 'the type does not fit the place', next: 'Choose another type.' },
  [itemCode.missing]: {
    words: 'there is no such block, or it has no fixed addresses',
    next: 'Check its number. A block that is laid out by the controller itself has no addresses: switch that off for this block in the program, and load it anew.',
  },
}

export const itemMeaning = (code: number): Meaning =>
  ofItem[code] ?? { words: 'a code that the protocol does not name', next: 'Look it up in the manual of the controller.' }

const ofRequest: Record<number, Meaning> = {
  0x8104: {
    words: 'this function is not offered, or access from outside is switched off',
    next: 'Allow access from outside in the settings of the controller, and load them.',
  },
  0x8304: { words: 'it has no resources left for this', next: 'Lower “under way at once” or the number of connections.' },
  0x8402: { words: 'another operation of this kind is under way', next: 'It is tried again by itself.' },
  0x8404: { words: 'an error of the controller while it was at it', next: 'Look at the diagnostic buffer of the controller.' },
  0x8500: { words: 'the request is larger than it takes', next: 'Lower the size of a request.' },
  0xd241: { words: 'a password is wanted', next: 'Lower the protection of the controller, or allow access from outside.' },
  0xd602: { words: 'its protection does not allow this', next: 'Lower the protection of the controller, or allow access from outside.' },
}

const classWords: Record<number, string> = {
  0x81: 'it does not know what was asked for',
  0x82: 'something is wrong with the place that was asked for',
  0x83: 'it has no resources left',
  0x84: 'it failed while it was at it',
  0x85: 'the request is not as it has to be',
  0x87: 'access is refused',
}

/** @param code class and code of the head of an answer */
export const requestMeaning = (code: number): Meaning =>
  ofRequest[code] ?? {
    words: classWords[code >> 8] ?? 'a code that the protocol does not name',
    next: 'Look the code up in the manual of the controller.',
  }

export const codeText = (code: number) =>
  `0x${code
    .toString(16)
    .toUpperCase()
    .padStart(code > 0xff ? 4 : 2, '0')}`

/** Those that have words, for looking up. */
export const namedCodes = [
  ...Object.entries(ofItem).map(([code, meaning]) => ({ code: codeText(Number(code)), ...meaning })),
  ...Object.entries(ofRequest).map(([code, meaning]) => ({ code: codeText(Number(code)), ...meaning })),
]
