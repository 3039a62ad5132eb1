import { recordingContract } from '#core/history/settings'

/** What of the port is recorded: shore power as it changes, converter and sensors, the tariff; the quay’s counters once in ten seconds. */
export const demoRecordings = () =>
  [
    { pattern: 'berth/**', how: { kind: 'change' } },
    { pattern: 'berth/*/arm/**', how: { kind: 'change', band: 0.05 } },
    { pattern: 'converter/**', how: { kind: 'change' } },
    { pattern: 'substation/**', how: { kind: 'change', band: 0.02 } },
    { pattern: 'office/**', how: { kind: 'change' } },
    { pattern: 'Harrow Sound/**', how: { kind: 'change', band: 0.01 } },
    { pattern: 'quay/**', how: { kind: 'period', every: 10_000 } },
  ].map((recording) => recordingContract.parse(recording))
