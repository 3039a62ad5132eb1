import { entry } from './entry'

/** Masters of smart sensors and what is plugged into them (JSON Integration for IO-Link). */
export const ioLinkFaults = {
  'iolink.refused': entry<{ place: string; code: number; words: string; next: string }>(
    'device',
    (e) => `The master refuses ${e.place} with ${e.code}: ${e.words}.`,
    (e) => e.next,
  ),
  'iolink.malformed': entry<{ place: string; problem: string }>(
    'device',
    (e) => `What ${e.place} says is not what the interface of masters says: ${e.problem}.`,
    () => 'Check the address: it ends where the interface begins, usually in /iolink/v1. Another kind of server may answer there.',
  ),
} as const
