import { inputReading, inputWay, type InputWay } from '#core/equipment/inputs'
import { fault, type Fault } from '#core/faults/catalogue'
import { quality, severityOf } from '#core/tags/quality'
import { valueText } from '#core/text/number'
import type { MadeOf } from '#core/equipment/made'
import type { ValueStage } from '#shared/values'
import type { Sample } from '../table/sampleRing'
import type { TagTable } from '../table/tagTable'
import type { RegisteredTag, TagRegister } from '../tags/tagRegister'
import type { SampleReader, SampleTap } from './sampleTap'
import type { PropertyWork } from './work'

interface Around {
  table: TagTable
  tags: TagRegister
  tap: SampleTap
}

/** An input of equipment: every sample of the tag that it is bound to, in the unit and type of the property. */
export class InputTag implements PropertyWork, SampleReader {
  fault: Fault | null = null
  private way: InputWay

  constructor(
    private tag: RegisteredTag,
    private made: MadeOf & { kind: 'input' },
    private around: Around,
  ) {
    this.way = inputWay('', tag)
    if (made.path === '') this.unbound()
    else around.tap.add(this, made.path)
  }

  take({ value, quality: code, sourceTime, seenAt }: Sample) {
    const { table } = this.around
    const { handle } = this.tag
    if (value === undefined || severityOf(code) === 'bad') return table.degrade(handle, code, sourceTime)
    const read = inputReading(value, this.wayNow())
    if (read.ok) {
      this.fault = null
      return table.set(handle, read.value, code, seenAt, sourceTime)
    }
    this.fault = fault('equipment.input', { path: this.tag.path, input: this.made.path, problem: read.problem })
    table.degrade(handle, quality.BadTypeMismatch, sourceTime)
  }

  gone() {
    this.fault = fault('equipment.no-input', { path: this.tag.path, input: this.made.path })
    this.around.table.degrade(this.tag.handle, quality.BadConfigurationError, Date.now())
  }

  lost() {}

  stages(): ValueStage[] {
    const { path } = this.made
    if (path === '') return [{ title: 'Input', text: 'not bound', detail: 'bind a tag to it in its equipment' }]
    const bound = this.around.tags.byPath(path)
    const { values, sourceTime } = this.around.table
    const text = bound ? valueText(values[bound.handle], bound.passedOn) : 'not there'
    const detail = this.way.factor ? `converted from ${bound?.unit} to ${this.tag.unit}` : 'as it comes'
    return [{ title: path, text, detail, ...(bound ? { at: sourceTime[bound.handle]! } : {}) }]
  }

  close() {
    this.around.tap.remove(this)
  }

  private unbound() {
    this.around.table.degrade(this.tag.handle, quality.BadConfigurationError, Date.now())
  }

  private wayNow(): InputWay {
    const { unit = '' } = this.around.tags.byPath(this.made.path) ?? {}
    if (this.way.from !== unit || this.way.to !== this.tag.unit) this.way = inputWay(unit, this.tag)
    return this.way
  }
}
