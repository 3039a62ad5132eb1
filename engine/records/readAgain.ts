import type { CursorSettings, SnapshotSettings } from '#core/records/settings'
import type { StampWatch } from './stampWatch'
import type { SetGround } from './work'

/** Has a set read again: by the clock, and when the table moved. Returns how to end it. */
export const readAgain = (ground: SetGround<SnapshotSettings | CursorSettings>, watch: () => StampWatch): (() => void) => {
  const { again } = ground.set.how
  const { periods } = ground.timing
  const ends: (() => void)[] = []
  if (again.every !== null) ends.push(periods.add(again.every, () => ground.wake()))
  if (again.stamp !== '') {
    const look = looker(ground, watch)
    ends.push(periods.add(again.look, () => void look()))
  }
  return () => ends.forEach((end) => end())
}

/** One look at a time; where it cannot be looked, it is read, and that tells why. */
const looker = (ground: SetGround, watch: () => StampWatch) => {
  let stamps: StampWatch | null = null
  let isLooking = false
  return async () => {
    if (isLooking) return
    isLooking = true
    try {
      stamps ??= watch()
      if (await stamps.hasMoved(ground.store())) ground.wake()
    } catch {
      // a reading tells why; one that failed is tried again by itself
      if (ground.isWell()) ground.wake()
    } finally {
      isLooking = false
    }
  }
}
