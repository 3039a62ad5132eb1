import { statusNames } from './statusNames'

/**
 * Quality is an OPC UA status code (OPC 10000-4 7.39, values from OPC 10000-6 A.2), kept as
 * an unsigned 32-bit number. The two highest bits are its severity.
 */
export const quality = {
  Good: 0x00000000,
  UncertainLastUsableValue: 0x40900000,
  UncertainSubstituteValue: 0x40910000,
  UncertainDataSubNormal: 0x40a40000,
  BadInternalError: 0x80020000,
  BadTimeout: 0x800a0000,
  BadNodeIdUnknown: 0x80340000,
  BadOutOfRange: 0x803c0000,
  BadNotWritable: 0x803b0000,
  BadNotReadable: 0x803a0000,
  BadIndexRangeNoData: 0x80370000,
  BadNoData: 0x809b0000,
  BadUserAccessDenied: 0x801f0000,
  BadNotSupported: 0x803d0000,
  BadWriteNotSupported: 0x80730000,
  BadTypeMismatch: 0x80740000,
  BadConfigurationError: 0x80890000,
  BadNotConnected: 0x808a0000,
  BadDeviceFailure: 0x808b0000,
  BadSensorFailure: 0x808c0000,
  BadOutOfService: 0x808d0000,
  BadNoCommunication: 0x80310000,
  BadWaitingForInitialData: 0x80320000,
} as const

export type Severity = 'good' | 'uncertain' | 'bad'

/** Names that say little to a person, in words. The others are read as they stand. */
const words: Record<string, string> = {
  UncertainLastUsableValue: 'last usable value, no longer fresh',
  UncertainSubstituteValue: 'another value in place of an odd one',
  UncertainDataSubNormal: 'known for a part of the window only',
  BadSensorFailure: 'the device says it has no value',
  BadInternalError: 'a fault of ours',
  BadTimeout: 'no reply in time',
  BadNodeIdUnknown: 'nothing of that name',
  BadOutOfRange: 'outside of the range that is taken there',
  BadNotWritable: 'may not be written',
  BadNotReadable: 'may not be read',
  BadNotSupported: 'the device does not offer this',
  BadTypeMismatch: 'value of the wrong type',
  BadConfigurationError: 'the device refuses this address',
  BadNotConnected: 'not connected',
  BadDeviceFailure: 'the device reports a failure',
  BadOutOfService: 'switched off',
  BadNoCommunication: 'no reply',
  BadWaitingForInitialData: 'waiting for the first value',
  BadUserAccessDenied: 'the user may not do this',
  BadNoData: 'no data there',
  BadIndexRangeNoData: 'no such member or element',
}

export const severityOf = (code: number): Severity => {
  const bits = code >>> 30
  return bits === 0 ? 'good' : bits === 1 ? 'uncertain' : 'bad'
}

export const isGood = (code: number) => code >>> 30 === 0

const infoBits = 0xffff

/** The standard's name, or the code in hexadecimal where the name is not known here. */
export const qualityName = (code: number): string =>
  statusNames.get((code & ~infoBits) >>> 0) ?? `0x${(code >>> 0).toString(16).padStart(8, '0')}`

const codesByName = new Map([...statusNames].map(([code, name]) => [name, code]))

/** The code of a name of the standard, or of a hexadecimal number as `qualityName` gives it; undefined: it is none. */
export const statusCodeNamed = (name: string): number | undefined => (/^0x[0-9a-f]{8}$/i.test(name) ? Number(name) : codesByName.get(name))

/** What a status code says, in words: `no reply`, `sensor failure`. */
export const statusWords = (name: string): string => words[name] ?? spelledOut(name)

const spelledOut = (name: string) =>
  name
    .replace(/^(Good|Uncertain|Bad)/, '')
    .replace(/([a-z])([A-Z])/g, '$1 $2')
    .toLowerCase()

/** One short phrase for a person: `Good`, or `Bad · no reply`. */
export const qualityText = (code: number): string => {
  const name = qualityName(code)
  if (name === 'Good') return 'Good'
  const severity = severityOf(code)
  const said = statusWords(name)
  return `${severity[0]!.toUpperCase()}${severity.slice(1)}${said ? ` · ${said}` : ''}`
}
