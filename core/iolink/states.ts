/** What masters say of a port (JSON Integration for IO-Link, statusInfo), in words; and whether there may be a device to ask. */
const states: Record<string, { words: string; hasDevice: boolean }> = {
  DEVICE_ONLINE: { words: 'works', hasDevice: true },
  DEVICE_STARTING: { words: 'starts', hasDevice: false },
  DEVICE_STARTUP: { words: 'starts', hasDevice: false },
  COMMUNICATION_LOST: { words: 'nothing is plugged in, or its line is broken', hasDevice: false },
  COMMUNICATION_READY: { words: 'is ready, and not at work yet', hasDevice: true },
  INCORRECT_DEVICE: { words: 'the master is set to another device', hasDevice: true },
  PORT_DIAGNOSIS: { words: 'the master reports a fault of the port', hasDevice: true },
  PORT_POWER_OFF: { words: 'the port has no power', hasDevice: false },
  DEACTIVATED: { words: 'switched off on the master', hasDevice: false },
  NOT_AVAILABLE: { words: 'the master offers no such port', hasDevice: false },
  DIGITAL_INPUT_C: { words: 'a plain digital input', hasDevice: false },
  DIGITAL_INPUT_Q: { words: 'a plain digital input', hasDevice: false },
  DIGITAL_OUTPUT_C: { words: 'a plain digital output', hasDevice: false },
  DIGITAL_OUTPUT_Q: { words: 'a plain digital output', hasDevice: false },
}

export const stateWords = (state: string): string => states[state]?.words ?? state.toLowerCase().replaceAll('_', ' ')

/** A state that is not known here may have a device: it is asked. */
export const mayHaveDevice = (state: string): boolean => states[state]?.hasDevice ?? true
