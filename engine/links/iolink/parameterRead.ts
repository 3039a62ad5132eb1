import { usualInterval } from '#core/iolink/load'
import type { IoLinkSettings } from '#core/iolink/settings'
import type { SampleSink } from '../../table/intake'
import type { Handle } from '../../table/tagTable'
import { pauseAfter, Repeated } from '../repeated'
import { takeFrom, type Image, type Target } from './item'
import type { Asked } from './master'
import { qualityOf } from './quality'

interface Ways {
  table: SampleSink
  settings(): IoLinkSettings
  /** Null: nobody is there who counts. */
  ask(): Promise<Asked<Uint8Array> | null>
  isReady(): boolean
}

export const parameterKey = ({ index, subindex }: { index: number; subindex: number }) => `${index}.${subindex}`

/** A parameter of a device, or a part of one, and all tags that read it. */
export class ParameterRead {
  readonly targets = new Map<Handle, Target>()
  image: Image | null = null
  private repeated: Repeated

  constructor(
    readonly index: number,
    readonly subindex: number,
    private ways: Ways,
  ) {
    this.repeated = new Repeated({
      ask: (isOurs) => this.ask(isOurs),
      interval: () => this.interval(),
      pauseAfter: (failures) => pauseAfter(ways.settings().patience, failures),
    })
  }

  add(target: Target) {
    this.targets.set(target.point.handle, target)
    if (this.image) takeFrom(target, this.image, this.ways.table)
  }

  again() {
    this.image = null
    this.repeated.again()
  }

  plan() {
    this.repeated.plan()
  }

  close() {
    this.repeated.close()
  }

  private interval(): number | null {
    if (!this.ways.isReady() || this.targets.size === 0) return null
    const settings = this.ways.settings()
    return Math.min(...[...this.targets.values()].map(({ point, placed }) => point.interval ?? usualInterval(placed.address, settings)))
  }

  private async ask(isOurs: () => boolean): Promise<boolean> {
    const asked = await this.ways.ask()
    if (!asked || !isOurs()) return true
    const { table } = this.ways
    if (asked.ok) {
      this.image = { bytes: asked.value, at: asked.at, ms: asked.ms }
      for (const target of this.targets.values()) takeFrom(target, this.image, table)
    } else {
      const code = qualityOf(asked)
      for (const target of this.targets.values()) {
        target.problem = asked.why
        table.degrade(target.point.handle, code, Date.now())
      }
    }
    table.flush()
    return asked.ok
  }
}
