import type { ThingOf } from '#db/subjects'
import type { OutletStatus } from '#shared/status'
import type { ForceBook } from '../configuration/force'
import type { Applier } from '../configuration/site'
import { asOutletTag, type RegisteredTag, type TagRegister } from '../tags/tagRegister'
import { Feeding } from './feeding'
import { OutletRunner, type Surroundings } from './outletRunner'

interface Around {
  tags: TagRegister
  force: ForceBook
  surroundings: Omit<Surroundings, 'folder'>
  /** Where an outlet may keep what has to outlast a restart; null: nowhere. */
  folder(id: number): string | null
  /** Ends when all of the difference at hand is in its place. */
  applied(): Promise<void>
}

/** The outlets of the configuration, each by itself: what one of them cannot take stops no other. */
export class Outlets implements Applier<ThingOf['outlet']> {
  private runners = new Map<number, OutletRunner>()
  private wanted = new Map<number, ThingOf['outlet']>()
  private feeding: Feeding
  /** Ends when none that was removed is open any more. */
  parted: Promise<unknown> = Promise.resolve()

  constructor(private around: Around) {
    this.feeding = new Feeding(() => around.tags.all())
  }

  get(id: number): OutletRunner | undefined {
    return this.runners.get(id)
  }

  all(): Iterable<[number, OutletRunner]> {
    return this.runners
  }

  set(outlets: readonly ThingOf['outlet'][]) {
    for (const outlet of outlets) this.apply(outlet)
  }

  removed(ids: readonly number[]) {
    for (const id of ids) {
      this.parted = Promise.all([
        this.parted,
        this.runners
          .get(id)
          ?.remove()
          .catch(() => {}),
      ])
      this.runners.delete(id)
      this.wanted.delete(id)
    }
  }

  tagsChanged(set: readonly RegisteredTag[], removed: readonly RegisteredTag[]) {
    const shown = set.map(asOutletTag)
    const handles = removed.map(({ handle }) => handle)
    for (const [id, runner] of this.runners) {
      try {
        runner.setTags(shown, handles)
      } catch (error) {
        const outlet = this.wanted.get(id)
        if (outlet) this.around.force.fail('outlet', outlet, error, outlet.revision)
      }
    }
  }

  /** Classes or equipment are others now. */
  modelChanged() {
    for (const runner of this.runners.values()) runner.modelChanged()
  }

  /** Tags or outlets may be others now. */
  forget() {
    this.feeding.forget()
  }

  /** The names of those by which a tag is to be had. */
  showing(path: string): string[] {
    return [...this.runners.values()].filter((runner) => runner.shows(path)).map(({ name }) => name)
  }

  status(): OutletStatus[] {
    return [...this.runners.values()].map((runner) => ({ ...runner.status(), feeds: this.feeding.of(runner) }))
  }

  /** Changes told to consumers of all of them. */
  get changesTold() {
    let total = 0
    for (const runner of this.runners.values()) total += runner.changesTold
    return total
  }

  async close() {
    await Promise.all([...this.runners.values()].map((runner) => runner.close()))
  }

  private apply(outlet: ThingOf['outlet']) {
    const { force, tags } = this.around
    this.wanted.set(outlet.id, outlet)
    const known = this.runners.get(outlet.id)
    if (known) return void force.attempt('outlet', outlet, () => known.update(outlet))
    const runner = new OutletRunner(outlet, { ...this.around.surroundings, folder: this.around.folder(outlet.id) }, this.around.applied())
    this.runners.set(outlet.id, runner)
    force.attempt('outlet', outlet, () => {
      runner.setTags([...tags.all()].map(asOutletTag), [])
      runner.start()
    })
  }
}
