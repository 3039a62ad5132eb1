import type { ForceBook } from '../configuration/force'
import type { ThingOf } from '#db/subjects'
import type { BridgeDraft } from '#core/bridges/settings'
import type { BridgePreview, SampleMessage } from '#shared/bridges/preview'
import type { BridgeRun, BridgeStatus } from '#shared/bridges/status'
import type { LeftParcel } from '#shared/nodeRpc'
import { readParcel } from '#core/bridges/parcel'
import { BridgeRunner, type BridgeAround } from './bridgeRunner'
import { previewOf } from './preview'
import { Laps } from './laps'
import { shareOfAll } from './runBook'

type Around = Omit<BridgeAround, 'laps' | 'remembered'> & { force: ForceBook }

/** All bridges of the engine, each by itself. */
export class Bridges {
  private runners = new Map<number, BridgeRunner>()
  private laps = new Laps()
  private remembered = shareOfAll()
  /** Ends when none that was removed delivers any more. */
  parted: Promise<unknown> = Promise.resolve()

  constructor(private around: Around) {}

  set(bridges: readonly ThingOf['bridge'][]) {
    for (const bridge of bridges) {
      const known = this.runners.get(bridge.id)
      if (known) this.around.force.attempt('bridge', bridge, () => known.update(bridge))
      else {
        const runner = new BridgeRunner(bridge, {
          ...this.around,
          laps: this.laps,
          remembered: this.remembered,
        })
        this.runners.set(bridge.id, runner)
        this.around.force.attempt('bridge', bridge, () => runner.start())
      }
    }
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
    }
  }

  status(): BridgeStatus[] {
    return [...this.runners.values()].map((runner) => runner.status())
  }

  /** What a bridge would send now; of a saved one, by the last message that set it off. */
  preview(draft: BridgeDraft, id: number | null, sample: SampleMessage | null): Promise<BridgePreview> {
    const last = id === null ? null : (this.runners.get(id)?.lastMessage ?? null)
    return previewOf(draft, { ...this.around, laps: this.laps }, sample, last)
  }

  all(): Iterable<BridgeRunner> {
    return this.runners.values()
  }

  get(id: number): BridgeRunner | undefined {
    return this.runners.get(id)
  }

  /** What another machine kept for a bridge while it led. @returns false where it cannot be taken now */
  async takeLeft(machine: number, { bridge, destination, key, parcel }: LeftParcel): Promise<boolean> {
    const read = readParcel(parcel)
    const runner = this.runners.get(bridge)
    return !read || !runner ? true : runner.takeLeft(destination, read, { machine, key })
  }

  runs(id: number): BridgeRun[] | null {
    return this.runners.get(id)?.lookedAt() ?? null
  }

  async close() {
    await Promise.all([...this.runners.values()].map((runner) => runner.close()))
  }
}
