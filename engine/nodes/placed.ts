import { within } from '#pacing/within'
import type { Applier } from '../configuration/site'
import type { Nodes } from './nodes'

/** Another machine that does not say that it ended is not waited for any longer; ms. */
const mostWaitMs = 10_000

interface Thing {
  id: number
  nodeId: number | null
}

interface Here<T> extends Applier<T> {
  /** Ends when none that was removed does anything any more. */
  parted: Promise<unknown>
}

/**
 * Outlets or bridges, each of which runs here or on a node. One that moves ends where it was before it begins where it goes:
 * no bridge delivers twice, and no outlet answers at two places.
 */
export class Placed<T extends Thing> implements Applier<T> {
  /** Of those that run elsewhere: on which node. */
  private there = new Map<number, number>()
  /** Those that come back once they ended there. */
  private coming = new Map<number, T>()

  constructor(
    private subject: 'outlet' | 'bridge',
    private here: Here<T>,
    private nodes: Pick<Nodes, 'wait' | 'get'>,
  ) {}

  set(all: readonly T[]) {
    for (const thing of all) {
      const { id, nodeId } = thing
      this.coming.delete(id)
      const before = this.there.get(id)
      if (nodeId !== null) this.send(id, nodeId)
      else if (before === undefined) void this.here.set?.([thing])
      else this.fetch(thing, before)
    }
  }

  removed(ids: readonly number[]) {
    for (const id of ids) {
      this.coming.delete(id)
      this.there.delete(id)
    }
    return this.here.removed?.(ids)
  }

  private send(id: number, node: number) {
    const before = this.there.get(id)
    this.there.set(id, node)
    if (before === node) return
    if (before !== undefined) return this.nodes.wait(node, this.endOn(before, id))
    void this.here.removed?.([id])
    this.nodes.wait(
      node,
      this.here.parted.then(() => {}),
    )
  }

  private fetch(thing: T, node: number) {
    this.coming.set(thing.id, thing)
    void this.endOn(node, thing.id).then(() => {
      if (this.coming.get(thing.id) !== thing) return
      this.coming.delete(thing.id)
      this.there.delete(thing.id)
      void this.here.set?.([thing])
    })
  }

  private endOn(node: number, id: number): Promise<void> {
    const runner = this.nodes.get(node)
    return runner ? within(mostWaitMs, runner.released(this.subject, id)).catch(() => {}) : Promise.resolve()
  }
}
