/** Exception codes: Modbus Application Protocol V1.1b3, clause 7. */
export interface ExceptionMeaning {
  name: string
  words: string
  next: string
}

const meanings: Record<number, ExceptionMeaning> = {
  1: {
    name: 'ILLEGAL FUNCTION',
    words: 'the device does not offer this function',
    next: 'Read the same point from another table: some devices only answer holding registers, others only input registers.',
  },
  2: {
    name: 'ILLEGAL DATA ADDRESS',
    words: 'the device has nothing at this address, or at an address in the same request',
    next: 'Compare the address with the device’s list and mind the off-by-one: its first register may be called 1, and travels as 0.',
  },
  3: {
    name: 'ILLEGAL DATA VALUE',
    words: 'the device refuses the value, or the number of registers asked for at once',
    next: 'For a write, check its permitted range. For a read, lower “registers in one request” on the link.',
  },
  4: {
    name: 'SERVER DEVICE FAILURE',
    words: 'the device failed while working on the request',
    next: 'Look at the device’s own display or log; the request itself was sound.',
  },
  5: {
    name: 'ACKNOWLEDGE',
    words: 'the device needs long for this request',
    next: 'Raise “answers within” on the link.',
  },
  6: {
    name: 'SERVER DEVICE BUSY',
    words: 'the device is busy with something else',
    next: 'Lengthen the interval, or take other clients off the device.',
  },
  8: {
    name: 'MEMORY PARITY ERROR',
    words: 'the device found its memory damaged',
    next: 'The device needs service.',
  },
  10: {
    name: 'GATEWAY PATH UNAVAILABLE',
    words: 'the gateway has no way to this unit',
    next: 'Check the unit number and the gateway’s own table of units.',
  },
  11: {
    name: 'GATEWAY TARGET DEVICE FAILED TO RESPOND',
    words: 'the gateway works, and the unit behind it does not answer',
    next: 'Check the unit’s power, its address and the wiring between it and the gateway.',
  },
}

/** The codes that the standard names, in its order. */
export const namedExceptions = Object.keys(meanings).map(Number)

export const exceptionMeaning = (code: number): ExceptionMeaning =>
  meanings[code] ?? {
    name: `EXCEPTION ${code}`,
    words: `the device answered with exception ${code}, which the standard does not name`,
    next: 'Look the code up in the device’s own documents.',
  }

export const exception = {
  illegalFunction: 1,
  illegalDataAddress: 2,
  illegalDataValue: 3,
  deviceFailure: 4,
  busy: 6,
  gatewayPathUnavailable: 10,
  gatewayTargetFailed: 11,
} as const
