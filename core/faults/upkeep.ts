import { duration } from '../text/duration'
import { dayText, momentText } from '../text/moment'
import { entry } from './entry'

interface Room {
  /** Of which disk. */
  name: string
  free: string
  of: string
}

const makeRoom = 'Make room on it, or keep less: Trends › What is recorded says what takes how much, and for how long it is kept.'

const kinds = {
  'own certificate': 'Our own certificate',
  'trusted certificate': 'The trusted certificate',
  authority: 'The authority of nodes',
  token: 'The token of the program',
  'wall screen': 'The link of the wall screen',
} as const

const renewals: Record<keyof typeof kinds, string> = {
  'own certificate':
    'Make a new one under Site › Certificates, or let an authority of the plant make it. Far sides that trust the present one have to trust the new one then.',
  'trusted certificate':
    'Let the far side get a new one, and decide about it when it is shown. A far side may show another one already; then this decision can go.',
  authority: 'Make a new site authority: let each node leave and come in again.',
  token: 'Make another one under Site › People and give it to the program; then take this one back.',
  'wall screen': 'Make another one under Displays › Wall screens, and open it on the screen.',
}

/** What somebody has to see to so that a site goes on for years. */
export const upkeepFaults = {
  'disk.filling': entry<Room & { at: number | null; mark: string; drops: boolean }>(
    'here',
    (e) =>
      `The disk of ${e.name} fills: ${e.free} of ${e.of} are free.${e.at === null ? '' : ` At the pace of the last days it is short on ${dayText(e.at)}.`}`,
    (e) => `${makeRoom}${e.drops ? ` Below ${e.mark} the oldest single samples give way.` : ''}`,
  ),
  'disk.short': entry<Room & { drops: boolean }>(
    'here',
    (e) =>
      `The disk of ${e.name} is short: ${e.free} of ${e.of} are free.${e.drops ? ' The oldest of what is recorded gives way, day by day.' : ''}`,
    () => `${makeRoom} Before it is full, recording stops.`,
  ),
  'disk.critical': entry<Room>(
    'here',
    (e) =>
      `The disk of ${e.name} is as good as full: ${e.free} of ${e.of} are free. Nothing is recorded until there is room; links, outlets and bridges go on.`,
    () => `${makeRoom} Recording goes on by itself then, and the gap is marked.`,
  ),
  'upkeep.ends': entry<{ kind: keyof typeof kinds; name: string; until: number; isOver: boolean }>(
    'here',
    (e) => `${kinds[e.kind]} “${e.name}” ${e.isOver ? 'ended' : 'ends'} on ${dayText(e.until)}.`,
    (e) => renewals[e.kind],
  ),
  'upkeep.no-backup': entry<{ days: number | null; revisions: number }>(
    'here',
    (e) =>
      e.days === null
        ? 'No backup was ever made of this site.'
        : `The last backup is ${e.days} days old; ${e.revisions === 1 ? 'one revision' : `${e.revisions} revisions`} came since.`,
    () =>
      './conduit backup --into FOLDER --keep 14 makes one and keeps the last fourteen; ./conduit service --backup FOLDER prints a timer for it.',
  ),
  'upkeep.waits': entry<{ name: string; share: number; room: string; dropsOldest: boolean }>(
    'here',
    (e) =>
      `${e.name}: ${e.share} % of the ${e.room} that may wait is used${e.share >= 100 && e.dropsOldest ? ', and the oldest is given up' : ''}.`,
    (e) =>
      `See why the receiver does not take it.${e.dropsOldest ? ' When all of the room is used, the oldest gives way.' : ' When all of the room is used, no more is taken.'}`,
  ),
  'upkeep.clock-set': entry<{ by: number; at: number }>(
    'here',
    (e) =>
      e.by > 0
        ? `The clock of this machine went ahead by ${duration(e.by)} on ${momentText(e.at)}, or the machine stood still for that long.`
        : `The clock of this machine was set back by ${duration(-e.by)} on ${momentText(e.at)}.`,
    (e) =>
      `Values keep the times that they had${e.by < 0 ? '; those of this stretch come twice in the record' : ''}. Schedules ran once. Let the machine get its time from a time server, so that this does not come again.`,
  ),
} as const
