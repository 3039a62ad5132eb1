import type { Told } from './told'

/** Below so many texts that nothing uses any more, they are left. */
const mostUnused = 50_000

/** What frames are, each text once: most frames of a link say what others said before. */
export class ToldTexts {
  private ids = new Map<string, number>()
  private all: Told[] = []

  idOf(told: Told): number {
    const key = `${told.summary}\0${told.role}${told.outcome}${told.key === null ? '' : told.isPatient ? 'p' : 'k'}\0${told.about}\0${told.call}`
    const known = this.ids.get(key)
    if (known !== undefined) return known
    const id = this.all.length
    // the key tells requests apart and nothing else: whoever asks for a text only asks whether there is one
    this.all.push(told.key === null ? told : { ...told, key: '' })
    this.ids.set(key, id)
    return id
  }

  of(id: number): Told {
    return this.all[id]!
  }

  /** Whether a text has all of these words; each text is looked at once. */
  matcher(words: readonly string[]): (id: number) => boolean {
    const known = new Uint8Array(this.all.length)
    return (id) => {
      const before = known[id]
      if (before) return before === 2
      const { summary, about, call } = this.all[id]!
      const text = `${summary} ${about} ${call}`.toLowerCase()
      const isIn = words.every((word) => text.includes(word))
      if (id < known.length) known[id] = isIn ? 2 : 1
      return isIn
    }
  }

  /** Lets go of texts that nobody uses, and gives the others new numbers. @param used changed in place */
  keep(used: Int32Array) {
    if (this.all.length < used.length + mostUnused) return
    const before = this.all
    this.all = []
    this.ids.clear()
    const moved = new Map<number, number>()
    for (let i = 0; i < used.length; i++) {
      const old = used[i]!
      let id = moved.get(old)
      if (id === undefined) moved.set(old, (id = this.idOf(before[old]!)))
      used[i] = id
    }
  }
}
