import { fault, type Fault } from '#core/faults/catalogue'
import { quality, severityOf } from '#core/tags/quality'
import { toRaw } from '#core/tags/scaling'
import type { TagValue } from '#core/tags/types'
import { conversion } from '#core/tags/units'
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
  private factor: { factor: number; offset: number } | null = null

  constructor(
    private tag: RegisteredTag,
    private made: MadeOf & { kind: 'input' },
    private around: Around,
  ) {
    if (made.path === '') this.unbound()
    else around.tap.add(this, made.path)
  }

  take({ value, quality: code, sourceTime, seenAt }: Sample) {
    const { table } = this.around
    const { handle, type } = this.tag
    if (value === undefined || severityOf(code) === 'bad') return table.degrade(handle, code, sourceTime)
    this.factor = this.conversionNow()
    const converted = this.convert(value)
    const fits = converted === null ? null : toRaw(converted, type, null)
    if (fits?.ok) {
      this.fault = null
      return table.set(handle, fits.raw, code, seenAt, sourceTime)
    }
    this.fault = fault('equipment.input', { path: this.tag.path, input: this.made.path, problem: fits?.detail ?? this.unitProblem() })
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
    const detail = this.factor ? `converted from ${bound?.unit} to ${this.tag.unit}` : 'as it comes'
    return [{ title: path, text, detail, ...(bound ? { at: sourceTime[bound.handle]! } : {}) }]
  }

  close() {
    this.around.tap.remove(this)
  }

  private unbound() {
    this.around.table.degrade(this.tag.handle, quality.BadConfigurationError, Date.now())
  }

  /** Where both have a unit and those differ. */
  private conversionNow() {
    const from = this.around.tags.byPath(this.made.path)?.unit ?? ''
    const to = this.tag.unit
    return from === '' || to === '' || from === to ? null : (conversion(from, to) ?? undefinedConversion)
  }

  private convert(value: TagValue): TagValue | null {
    if (this.factor === null) return value
    if (this.factor === undefinedConversion || typeof value !== 'number') return null
    return value * this.factor.factor + this.factor.offset
  }

  private unitProblem() {
    return `${this.around.tags.byPath(this.made.path)?.unit} is not converted to ${this.tag.unit}`
  }
}

const undefinedConversion = { factor: NaN, offset: NaN }
