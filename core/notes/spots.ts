import type { Note } from './kinds'
import { meeting, type Spot } from './spot'

interface Placed {
  id: number
  spot: Spot
}

/** So many neighbours of one point are named, and of those that are alike the first. */
const mostNamed = 3
/** Ten thousand copies of one tag need not each look at all others. */
const mostLookedAt = 50

/** The spots of one place in order, so that those that meet a given one are found at once. */
class Place {
  private placed: Placed[] = []
  private inOrder = true
  private widest = 1

  get isEmpty() {
    return this.placed.length === 0
  }

  add(one: Placed) {
    this.placed.push(one)
    this.inOrder = false
    this.widest = Math.max(this.widest, one.spot.to - one.spot.from)
  }

  /** One among many that are in order already. */
  insert(one: Placed) {
    if (!this.inOrder) return this.add(one)
    this.widest = Math.max(this.widest, one.spot.to - one.spot.from)
    this.placed.splice(this.firstFrom(one.spot.from), 0, one)
  }

  remove(ids: ReadonlySet<number>) {
    this.placed = this.placed.filter(({ id }) => !ids.has(id))
  }

  removeOne({ id, spot }: Placed) {
    this.order()
    for (let index = this.firstFrom(spot.from); index < this.placed.length; index++)
      if (this.placed[index]!.id === id) return void this.placed.splice(index, 1)
  }

  /** Those that share an element with a spot. */
  *meeting(spot: Spot): Generator<Placed> {
    this.order()
    for (let index = this.firstFrom(spot.from - this.widest + 1); index < this.placed.length; index++) {
      const one = this.placed[index]!
      if (one.spot.from >= spot.to) return
      if (one.spot.to > spot.from) yield one
    }
  }

  private firstFrom(from: number): number {
    let [low, high] = [0, this.placed.length]
    while (low < high) {
      const middle = (low + high) >> 1
      if (this.placed[middle]!.spot.from < from) low = middle + 1
      else high = middle
    }
    return low
  }

  private order() {
    if (this.inOrder) return
    this.placed.sort((a, b) => a.spot.from - b.spot.from || a.id - b.id)
    this.inOrder = true
  }
}

/** Where all points lie, and which of them meet. */
export class Spots {
  private places = new Map<string, Place>()
  private spotOf = new Map<number, Spot>()

  constructor(private pathOf: (id: number) => string) {}

  /** Many at once: put in order when somebody asks. */
  addAll(all: readonly Placed[]) {
    for (const one of all) {
      this.spotOf.set(one.id, one.spot)
      this.placeOf(one.spot).add(one)
    }
  }

  set(id: number, spot: Spot) {
    this.spotOf.set(id, spot)
    this.placeOf(spot).insert({ id, spot })
  }

  removeAll(ids: ReadonlySet<number>) {
    const places = new Set<string>()
    for (const id of ids) {
      const spot = this.spotOf.get(id)
      if (spot) places.add(spot.place)
      this.spotOf.delete(id)
    }
    for (const key of places) {
      const place = this.places.get(key)!
      place.remove(ids)
      if (place.isEmpty) this.places.delete(key)
    }
  }

  remove(id: number) {
    const spot = this.spotOf.get(id)
    if (!spot) return
    this.spotOf.delete(id)
    const place = this.places.get(spot.place)!
    place.removeOne({ id, spot })
    if (place.isEmpty) this.places.delete(spot.place)
  }

  of(id: number): Spot | null {
    return this.spotOf.get(id) ?? null
  }

  /** Who else lies where a tag lies. */
  neighbours(id: number): number[] {
    const spot = this.spotOf.get(id)
    if (!spot) return []
    return [...(this.places.get(spot.place)?.meeting(spot) ?? [])].map((one) => one.id).filter((other) => other !== id)
  }

  /** What is to be said of a spot; `id` is whose it is, null: nobody's yet. */
  notesAt(spot: Spot, id: number | null): Note[] {
    const found: Note[] = []
    let looked = 0
    for (const other of this.places.get(spot.place)?.meeting(spot) ?? []) {
      if (other.id === id) continue
      if (++looked > mostLookedAt) break
      const one = meeting(spot, other.spot, this.pathOf(other.id))
      if (one && !found.some(({ key }) => key === one.key)) found.push(one)
      if (found.length === mostNamed) break
    }
    return found
  }

  notesOf(id: number): Note[] {
    const spot = this.spotOf.get(id)
    return spot ? this.notesAt(spot, id) : []
  }

  private placeOf({ place }: Spot): Place {
    const known = this.places.get(place) ?? new Place()
    this.places.set(place, known)
    return known
  }
}
