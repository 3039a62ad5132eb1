import type { Flow } from '#shared/flow'
import type { DoorStatus } from '#shared/outlets/doorStatus'
import { isWithin } from '#pacing/clock'

/** How an outlet is by its doors: one that cannot open among others makes it late; none open, broken. */
export const flowOfDoors = (doors: readonly Pick<DoorStatus, 'flow'>[]): Flow => {
  const wanted = doors.filter(({ flow }) => flow !== 'off')
  if (wanted.length === 0) return 'off'
  const open = wanted.filter(({ flow }) => flow === 'flowing').length
  if (open === wanted.length) return 'flowing'
  return open === 0 && wanted.some(({ flow }) => flow === 'broken') ? 'broken' : 'late'
}

const recentMs = 10_000

/** Whether a client did just not get what it asked for. */
export const wasJustRefused = (refused: { at: number } | null): boolean => refused !== null && isWithin(recentMs, refused.at)
