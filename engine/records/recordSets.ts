import type { ThingOf } from '#db/subjects'
import type { RecordSetStatus } from '#shared/records/status'
import type { ForceBook } from '../configuration/force'
import type { Periods } from '../bridges/periods'
import { SetRunner, type SetsAround } from './setRunner'

interface Around extends SetsAround {
  force: ForceBook
  periods: Periods
  /** Tags that were there before their set have it from now on; or have lost it. */
  settle(id: number): void
  orphan(id: number): void
}

/** So often it is looked whether the links of sets are there. */
const lookMs = 1000

/** All record sets of the engine, each by itself. */
export class RecordSets {
  private runners = new Map<number, SetRunner>()
  private endLooking: () => void

  constructor(private around: Around) {
    this.endLooking = around.periods.add(lookMs, () => this.lookAtLinks())
  }

  set(sets: readonly ThingOf['recordSet'][]) {
    for (const set of sets) {
      const known = this.runners.get(set.id)
      if (known) {
        this.around.force.attempt('recordSet', set, () => known.update(set))
        continue
      }
      const runner = new SetRunner(set, this.around)
      this.runners.set(set.id, runner)
      this.around.settle(set.id)
      this.around.force.attempt('recordSet', set, () => runner.start())
    }
  }

  removed(ids: readonly number[]) {
    for (const id of ids) {
      this.runners.get(id)?.close()
      this.runners.delete(id)
      this.around.orphan(id)
    }
  }

  get(id: number): SetRunner | undefined {
    return this.runners.get(id)
  }

  linkChanged(linkId: number) {
    for (const runner of this.runners.values()) if (runner.linkId === linkId) runner.linkChanged()
  }

  status(): RecordSetStatus[] {
    return [...this.runners.values()].map((runner) => runner.status())
  }

  close() {
    this.endLooking()
    for (const runner of this.runners.values()) runner.close()
  }

  private lookAtLinks() {
    for (const runner of this.runners.values()) {
      const flow = this.around.link(runner.linkId)?.status().flow
      if (flow !== 'late') runner.linkIsThere(flow === 'flowing')
    }
  }
}
