import type { Fault } from '#core/faults/catalogue'
import { gatherable, gathered } from '#core/equipment/gather'
import type { MadeOf } from '#core/equipment/made'
import { gatherWord } from '#core/equipment/words'
import { quality } from '#core/tags/quality'
import { valueText } from '#core/text/number'
import type { ValueStage } from '#shared/values'
import type { Handle, TagTable } from '../table/tagTable'
import type { RegisteredTag, TagRegister } from '../tags/tagRegister'
import type { PropertyWork } from './work'

const mostShown = 12

/** What children of equipment have together, worked out anew whenever one of them changes. */
export class GatherTag implements PropertyWork {
  fault: Fault | null = null

  constructor(
    private tag: RegisteredTag,
    readonly made: MadeOf & { kind: 'gather' },
    private around: { table: TagTable; tags: TagRegister },
  ) {}

  work(now: number) {
    const { table } = this.around
    const { handle } = this.tag
    const handles = this.made.of.map((path) => this.around.tags.byPath(path)?.handle)
    const known = handles.map((one) => ({
      value: one === undefined ? null : gatherable(table.values[one]),
      quality: one === undefined ? quality.BadNodeIdUnknown : table.quality[one]!,
    }))
    const { value, quality: code } = gathered(this.made.how, known)
    if (value === null) return table.degrade(handle, code, now)
    table.set(handle, value, code, now, this.newest(handles) || now)
  }

  stages(): ValueStage[] {
    const { table, tags } = this.around
    const shown = this.made.of.slice(0, mostShown).map((path) => {
      const child = tags.byPath(path)
      return { title: path, text: child ? valueText(table.values[child.handle], child.passedOn) : 'not there', detail: 'a child' }
    })
    const more = this.made.of.length - shown.length
    return [
      ...shown,
      { title: 'Together', text: gatherWord(this.made.how), detail: more > 0 ? `and ${more} more` : 'of those that are good' },
    ]
  }

  close() {}

  private newest(handles: readonly (Handle | undefined)[]) {
    return handles.reduce<number>((newest, one) => (one === undefined ? newest : Math.max(newest, this.around.table.sourceTime[one]!)), 0)
  }
}
