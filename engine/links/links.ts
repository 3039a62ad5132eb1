import { protocolOf } from '#core/links/registry'
import type { ThingOf } from '#db/subjects'
import type { LinkDraft } from '#shared/links/link'
import type { Applier } from '../configuration/site'
import type { ForceBook } from '../configuration/force'
import type { Nodes } from '../nodes/nodes'
import { LinkRunner } from './linkRunner'

interface Around {
  force: ForceBook
  /** What the link of this number finds around it. */
  surroundings(id: number): ConstructorParameters<typeof LinkRunner>[1]
  /** Ends when all of the difference at hand is in its place. */
  applied(): Promise<void>
  /** Tags over a link get their values from it from now on, or from nowhere. */
  settle(id: number): void
  orphan(id: number): void
  changed(id: number): void
  /** Another machine runs it from now on, and records its tags. */
  turned(id: number): void
  nodes?: Pick<Nodes, 'wait'> | undefined
}

/** One runner per link. */
export class Links implements Applier<ThingOf['link']> {
  private runners = new Map<number, LinkRunner>()
  /** Ends when no link that was removed talks to its far side any more. */
  parted: Promise<unknown> = Promise.resolve()

  constructor(private around: Around) {}

  get(id: number): LinkRunner | undefined {
    return this.runners.get(id)
  }

  all(): Iterable<[number, LinkRunner]> {
    return this.runners
  }

  values(): LinkRunner[] {
    return [...this.runners.values()]
  }

  set(all: readonly ThingOf['link'][]) {
    for (const link of all) this.apply(link)
  }

  removed(ids: readonly number[]) {
    for (const id of ids) {
      this.parted = Promise.all([this.parted, this.runners.get(id)?.close()])
      this.runners.delete(id)
      this.around.orphan(id)
    }
  }

  /** Names of links that hold a connection to this place. */
  connectedTo({ kind, settings }: Pick<LinkDraft, 'kind' | 'settings'>): string[] {
    const place = protocolOf(kind).place(settings)
    return this.values()
      .filter((link) => link.isConnectedTo(kind, place))
      .map(({ name }) => name)
  }

  async close() {
    await Promise.all(this.values().map((link) => link.close()))
  }

  private apply(link: ThingOf['link']) {
    const known = this.runners.get(link.id)
    if (known) return this.update(known, link)
    const { force, surroundings, applied, settle } = this.around
    const runner = new LinkRunner(link, surroundings(link.id), applied())
    this.runners.set(link.id, runner)
    force.attempt('link', link, () => runner.start())
    settle(link.id)
  }

  private update(known: LinkRunner, link: ThingOf['link']) {
    const { force, settle, changed, turned, nodes } = this.around
    const [isOther, isTurned] = [known.kind !== link.kind, known.draft.nodeId !== link.nodeId]
    force.attempt('link', link, () => known.update(link))
    if (isOther) settle(link.id)
    if (isTurned) turned(link.id)
    if (isTurned && link.nodeId !== null) nodes?.wait(link.nodeId, known.ended)
    changed(link.id)
  }
}
