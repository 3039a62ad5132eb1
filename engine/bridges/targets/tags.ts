import { fault } from '#core/faults/catalogue'
import { fitInto, type FieldType } from '#core/bridges/fit'
import type { Carried } from '#core/messages/carried'
import { fieldTypeOfTag } from '#core/bridges/tagField'
import { quality } from '#core/tags/quality'
import type { TagValue } from '#core/tags/types'
import { isWide } from '#core/tags/types'
import type { Writer } from '#shared/writes'
import type { Verdict } from '../../links/receiving'
import type { RegisteredTag } from '../../tags/tagRegister'
import { tagPlace } from '../laps'
import { anything, thrown, type Handed, type Surroundings, type Target } from './target'

/** What may be otherwise the next time. */
const passing = new Set<number>([
  ...[quality.BadNotConnected, quality.BadTimeout, quality.BadNoCommunication, quality.BadOutOfService],
  ...[quality.BadWaitingForInitialData, quality.BadDeviceFailure],
])

/** Tags as a destination: each field of a record is written to the tag of its path, one after the other. */
export class TagTarget implements Target {
  constructor(
    private around: Surroundings,
    private paths: readonly string[],
    private bridge: number,
    private by: Writer,
  ) {}

  async deliver({ records }: Handed): Promise<Verdict[]> {
    const verdicts: Verdict[] = []
    for (const { to, values } of records) {
      const all = await Promise.all(to.map((path, i) => this.write(path, values[i] ?? null)))
      verdicts.push(all.find((verdict) => verdict !== null) ?? null)
    }
    return verdicts
  }

  types(): Promise<FieldType[]> {
    return Promise.resolve(this.paths.map((path) => this.typeOf(path)))
  }

  preview({ records }: Handed): Promise<string[]> {
    return Promise.resolve(records.flatMap(({ to, values }) => to.map((path, i) => `${path} = ${String(values[i] ?? 'null')}`)))
  }

  private typeOf(path: string): FieldType {
    const tag = this.around.tags.byPath(path)
    return tag ? fieldTypeOfTag(tag.passedOn) : anything
  }

  private async write(path: string, value: Carried): Promise<Verdict> {
    const tag = this.around.tags.byPath(path)
    if (!tag) return fault('bridge.no-tag', { path })
    const fit = fitInto(fieldTypeOfTag(tag.passedOn), value)
    if (!fit.ok) return fault('bridge.fit', { field: path, problem: fit.text })
    this.around.laps.writes(this.bridge, tagPlace(path))
    const outcome = await this.around.write(tag.handle, asTagValue(fit.value, tag), this.by)
    if (outcome.ok) return null
    if (passing.has(outcome.quality)) throw thrown(outcome.fault)
    return outcome.fault
  }
}

const asTagValue = (value: Carried, { passedOn }: RegisteredTag): TagValue => {
  if (value instanceof Date) return value.getTime()
  if (typeof value === 'bigint' && !isWide(passedOn)) return Number(value)
  return value as TagValue
}
