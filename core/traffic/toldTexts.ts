import type { Told } from './told'

/** Below so many texts that nothing uses any more, they are left. */
const mostUnused = 50_000

/** What frames are, each text once: most frames of a link say what others said before. */
export class ToldTexts {
  private ids = new Map<string, number>()
  private all: Told[] = []
  /** What was found of the words that were looked for last, by text: 0 not looked at, 1 no, 2 yes. */
  private looked = { words: '', known: new Uint8Array() }

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

  /** Whether a text has all of these words; each text is looked at once, as long as the words are the same. */
  matcher(words: readonly string[]): (id: number) => boolean {
    if (words.length === 0) return () => true
    const known = this.knownOf(words.join(' '))
    return (id) => {
      const before = known[id]
      if (before) return before === 2
      const { summary, about, call } = this.all[id]!
      const text = `${summary} ${about} ${call}`.toLowerCase()
      const isIn = words.every((word) => text.includes(word))
      known[id] = isIn ? 2 : 1
      return isIn
    }
  }

  /** With room for all texts, and for some that come. */
  private knownOf(words: string): Uint8Array {
    const isSame = this.looked.words === words
    if (isSame && this.looked.known.length >= this.all.length) return this.looked.known
    const known = new Uint8Array(2 * this.all.length)
    if (isSame) known.set(this.looked.known)
    this.looked = { words, known }
    return known
  }

  /** Lets go of texts that nobody uses, and gives the others new numbers. @param used changed in place */
  keep(used: Int32Array) {
    if (this.all.length < used.length + mostUnused) return
    const before = this.all
    this.all = []
    this.ids.clear()
    this.looked = { words: '', known: new Uint8Array() }
    const moved = new Map<number, number>()
    for (let i = 0; i < used.length; i++) {
      const old = used[i]!
      let id = moved.get(old)
      if (id === undefined) moved.set(old, (id = this.idOf(before[old]!)))
      used[i] = id
    }
  }
}
