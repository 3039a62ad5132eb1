import { fault, type Fault } from '../faults/catalogue'
import { sizeText } from '../text/sizeText'
import type { Concern } from './concern'
import { markOf, type DiskFacts, type Stage } from './disks'
import { isToldAt, type Ending } from './endings'

/** What is known of a site that has to run for years. */
export interface UpkeepFacts {
  now: number
  /** `drops`: what is recorded on it gives way when it is short. `isOurs`: recording stops before it is full. */
  disks: (DiskFacts & { name: string; stage: Stage; shortAt: number | null; isOurs: boolean; drops: boolean })[]
  endings: Ending[]
  /** Null: it is not to be told; the site is new, or nobody knows. */
  backup: { lastAt: number | null; revisionsSince: number } | null
  clockSet: { by: number; at: number } | null
  /** What waits, and how much of the room for it is used, 0 to 1. */
  queues: { key: string; name: string; place: string; used: number; room: number; dropsOldest: boolean }[]
}

const dayMs = 86_400_000
const longestWithoutBackupMs = 31 * dayMs
/** A disk that fills is told so long before it is short. */
const foretoldMs = 60 * dayMs
const mostUsed = 0.5
const clockToldMs = dayMs

/** Everything that somebody has to see to, by what is known. */
export const concernsIn = (facts: UpkeepFacts): Concern[] => [
  ...facts.disks.flatMap((disk) => ofDisk(disk, facts.now)),
  ...facts.endings.filter((ending) => isToldAt(ending, facts.now)).map((ending) => ofEnding(ending, facts.now)),
  ...ofBackup(facts),
  ...facts.queues.filter(({ used }) => used >= mostUsed).map(ofQueue),
  ...ofClock(facts),
]

const ofDisk = ({ name, stage, shortAt, isOurs, drops, bytes, freeBytes }: UpkeepFacts['disks'][number], now: number): Concern[] => {
  const shared = { key: `disk ${name}`, about: 'Disk', by: shortAt, place: '/site/upkeep' }
  const room = { name, free: sizeText(freeBytes), of: sizeText(bytes) }
  const why = isOurs && diskFault({ name, stage, drops, bytes, freeBytes })
  if (why) return [{ ...shared, urgency: 'now', fault: why, by: null }]
  const isForetold = shortAt !== null && shortAt - now < foretoldMs
  if (stage === 'well' && !isForetold) return []
  const filling = fault('disk.filling', { ...room, at: isForetold ? shortAt : null, mark: sizeText(markOf('short', bytes)), drops })
  return [{ ...shared, urgency: stage === 'critical' || stage === 'short' ? 'now' : 'soon', fault: filling }]
}

/** What is to be said of a disk that something is given up for already; null: nothing is. @param drops whether what is recorded gives way */
export const diskFault = ({
  name,
  stage,
  drops,
  bytes,
  freeBytes,
}: DiskFacts & { name: string; stage: Stage; drops: boolean }): Fault | null => {
  const room = { name, free: sizeText(freeBytes), of: sizeText(bytes) }
  if (stage === 'critical') return fault('disk.critical', room)
  return stage === 'short' ? fault('disk.short', { ...room, drops }) : null
}

const ofEnding = ({ kind, name, until, place }: Ending, now: number): Concern => ({
  ...{ key: `${kind} ${name} ${until}`, by: until, place, about: abouts[kind], urgency: until < now ? 'now' : 'soon' },
  fault: fault('upkeep.ends', { kind, name, until, isOver: until < now }),
})

const abouts: Record<Ending['kind'], string> = {
  'own certificate': 'Certificate',
  'trusted certificate': 'Certificate',
  authority: 'Authority of nodes',
  token: 'Token',
  'wall screen': 'Wall screen',
}

const ofBackup = ({ backup, now }: UpkeepFacts): Concern[] => {
  if (!backup) return []
  const { lastAt, revisionsSince } = backup
  if (lastAt !== null && now - lastAt < longestWithoutBackupMs) return []
  const days = lastAt === null ? null : Math.floor((now - lastAt) / dayMs)
  const why = fault('upkeep.no-backup', { days, revisions: revisionsSince })
  return [{ key: 'backup', about: 'Backup', urgency: 'soon', by: null, place: '/site/upkeep', fault: why }]
}

const ofQueue = ({ key, name, place, used, room, dropsOldest }: UpkeepFacts['queues'][number]): Concern => ({
  ...{ key, about: 'What waits', place, by: null, urgency: used >= 1 ? 'now' : 'soon' },
  fault: fault('upkeep.waits', { name, share: Math.round(100 * Math.min(1, used)), room: sizeText(room), dropsOldest }),
})

const ofClock = ({ clockSet, now }: UpkeepFacts): Concern[] => {
  if (!clockSet || Math.abs(now - clockSet.at) > clockToldMs) return []
  return [
    {
      key: `clock ${clockSet.at}`,
      about: 'Clock',
      urgency: 'soon',
      by: null,
      place: '/journal',
      fault: fault('upkeep.clock-set', clockSet),
    },
  ]
}
