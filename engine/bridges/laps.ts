import { steadyNow } from '#pacing/clock'
/** What a bridge wrote counts as the reason for what comes of it for so long. */
const freshMs = 5000
/** Two that keep each other the same come to rest after one; who goes round so often does not come to rest. */
const mostLaps = 200
const mostPlaces = 20_000

/** Tags and topics, as what bridges write and as what sets them off. */
export const tagPlace = (path: string) => `tag ${path}`
export const topicPlace = (linkId: number, topic: string) => `topic ${linkId} ${topic}`

export const filePlace = (linkId: number, file: string) => `file ${linkId} ${file}`

/** Counts how often each bridge took part in what led to a run: one that sets itself off without end is found. */
export class Laps {
  private led = new Map<string, { laps: ReadonlyMap<number, number>; at: number }>()
  private current = new Map<number, ReadonlyMap<number, number>>()
  /** Of bridges that nothing but themselves led to. */
  private first = new Map<number, ReadonlyMap<number, number>>()

  /**
   * A run begins. @param place what set it off; null: no tag and no topic
   * @returns whether the bridge went round so often that it will not come to rest
   */
  begins(bridge: number, place: string | null): boolean {
    const led = place === null ? undefined : this.led.get(place)
    if (!led || steadyNow() - led.at >= freshMs) {
      this.current.set(bridge, this.firstOf(bridge))
      return false
    }
    const laps = new Map(led.laps).set(bridge, (led.laps.get(bridge) ?? 0) + 1)
    this.current.set(bridge, laps)
    return laps.get(bridge)! > mostLaps
  }

  private firstOf(bridge: number): ReadonlyMap<number, number> {
    const known = this.first.get(bridge) ?? new Map([[bridge, 1]])
    this.first.set(bridge, known)
    return known
  }

  /** Right before a bridge writes. */
  writes(bridge: number, place: string) {
    const laps = this.current.get(bridge)
    if (!laps) return
    this.led.delete(place)
    if (this.led.size >= mostPlaces) this.led.delete(this.led.keys().next().value!)
    this.led.set(place, { laps, at: steadyNow() })
  }

  forget(bridge: number) {
    this.current.delete(bridge)
    this.first.delete(bridge)
  }
}
