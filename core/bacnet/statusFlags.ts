import { quality } from '../tags/quality'
import type { AppValue } from './appValue'

/** What an object says of its own value (12, Status_Flags): in alarm, in fault, overridden, out of service. */
export interface StatusFlags {
  inAlarm: boolean
  fault: boolean
  overridden: boolean
  outOfService: boolean
}

/** Null: they are no flags. */
export const statusFlagsOf = (values: readonly AppValue[]): StatusFlags | null => {
  const [bits] = values
  if (bits?.tag !== 'bits' || bits.value.length < 4) return null
  const [inAlarm, fault, overridden, outOfService] = bits.value as [boolean, boolean, boolean, boolean]
  return { inAlarm, fault, overridden, outOfService }
}

/** A value that is in fault is none; one that is out of service is not what the process has. An alarm says nothing against a value. */
export const qualityBy = (flags: StatusFlags | null): number => {
  if (!flags) return quality.Good
  if (flags.fault) return quality.BadSensorFailure
  return flags.outOfService ? quality.UncertainSubstituteValue : quality.Good
}

export const flagsText = (flags: StatusFlags): string => {
  const words = [
    flags.inAlarm ? 'in alarm' : '',
    flags.fault ? 'in fault' : '',
    flags.overridden ? 'overridden at the device' : '',
    flags.outOfService ? 'out of service' : '',
  ].filter((word) => word !== '')
  return words.length === 0 ? 'no flag is set' : words.join(', ')
}
