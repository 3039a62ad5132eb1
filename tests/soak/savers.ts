import type { Tag } from '#shared/tags'
import type { Api, Outcome } from './api'
import { pause, type Chance } from './chance'
import { addressOf, pointBody } from '../support/tagBodies'

/** What a tag was saved as; null: it was removed, or never made. */
export type Saved = { register: number; description: string } | null

/** What one saver knows of its tags: what was answered last, and what may have been done since without an answer. */
export interface Entry {
  answered: Saved
  inDoubt: Saved[]
}

const isSame = (a: Saved, b: Saved) => a?.register === b?.register && a?.description === b?.description
export const agrees = ({ answered, inDoubt }: Entry, now: Saved) => [answered, ...inDoubt].some((one) => isSame(one, now))
export const savedAs = (tag: Tag | undefined): Saved =>
  tag ? { register: Number(addressOf(tag).split('/')[1]), description: tag.description } : null

/** Makes, changes and removes tags of its own, one at a time, and keeps account of what it was told. */
export class Saver {
  readonly entries = new Map<string, Entry>()
  answered = 0
  private serial = 0

  constructor(
    private name: string,
    private api: Api,
    private linkId: number,
    private firstRegister: number,
    private chance: Chance,
  ) {}

  async run(isOver: () => boolean) {
    while (!isOver()) {
      await this.saveOne()
      await pause(this.chance.whole(20, 200))
    }
  }

  /** Both registers that a tag may be at. */
  registersOf(path: string): [number, number] {
    const number = Number(path.split('_').at(-1))
    return [this.firstRegister + 2 * number, this.firstRegister + 2 * number + 1]
  }

  private async saveOne() {
    const path = `soak/${this.name}/point_${this.chance.whole(0, 9)}`
    const entry = this.entries.get(path) ?? { answered: null, inDoubt: [] }
    this.entries.set(path, entry)
    const present = await this.find(path)
    if (present === 'lost') return
    const next: Saved =
      present && this.chance.next() < 0.3
        ? null
        : { register: this.chance.oneOf(this.registersOf(path)), description: `${this.name} ${++this.serial}` }
    this.note(entry, next, await this.send(path, present, next))
  }

  private async find(path: string): Promise<Tag | undefined | 'lost'> {
    const answer = await this.api.call('GET', `/tags?find=${encodeURIComponent(path)}`)
    if (answer === 'lost' || answer.status !== 200) return 'lost'
    return (answer.body.items as Tag[]).find((tag) => tag.path === path)
  }

  private send(path: string, present: Tag | undefined, next: Saved): Promise<Outcome> {
    if (!next) return this.api.call('POST', '/tags/remove', { ids: [present!.id] })
    const { register, description } = next
    const draft = pointBody({ path, linkId: this.linkId, address: `holding/${register}`, type: 'uint16', description })
    if (!present) return this.api.call('POST', '/tags', { tags: [draft] })
    return this.api.call('PUT', `/tags/${present.id}`, { revision: present.revision, tag: draft })
  }

  private note(entry: Entry, next: Saved, outcome: Outcome) {
    if (outcome === 'lost' || outcome.status >= 500) return void entry.inDoubt.push(next)
    if (outcome.status !== 200) return
    this.answered++
    entry.answered = next
    entry.inDoubt = []
  }
}
