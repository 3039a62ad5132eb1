import { childOf, childrenOf, readXml, within, type Element } from '../../formats/xml/elements'
import { unitText } from '../units'
import type { DataRecord, DeviceDescription, Item, Parameter, ProcessData, ReadDescription, Scale, SimpleType } from './description'
import { standardParameters } from './standard'
import { Texts } from './texts'

/** One word in the standard. */
const deviceElement = ['Device', 'Name'].join('')
const limits = { elements: 200_000, depth: 40 }
const mostBits = 256

class Unfit extends Error {
  constructor(
    readonly line: number,
    problem: string,
  ) {
    super(problem)
  }
}

/** Reads a description in a language that it has; where it does not, in its primary one. */
export const readDescription = (text: string, language = 'en'): ReadDescription => {
  const read = readXml(text, limits)
  if (!read.ok) return { ok: false, line: read.line, problem: read.problem }
  if (read.root.name !== 'IODevice')
    return { ok: false, line: read.root.line, problem: `a device description begins with “IODevice”, and here stands “${read.root.name}”` }
  try {
    return { ok: true, description: new Reader(read.root, language).read() }
  } catch (error) {
    if (error instanceof Unfit) return { ok: false, line: error.line, problem: error.message }
    throw error
  }
}

class Reader {
  private texts: Texts
  private types = new Map<string, Element>()

  constructor(
    private root: Element,
    language: string,
  ) {
    this.texts = new Texts(childOf(root, 'ExternalTextCollection'), language)
  }

  read(): DeviceDescription {
    const body = this.need(this.root, 'ProfileBody')
    const [identity, functions] = [this.need(body, 'DeviceIdentity'), this.need(body, 'DeviceFunction')]
    for (const type of childrenOf(childOf(functions, 'DatatypeCollection'), 'Datatype')) this.types.set(this.attribute(type, 'id'), type)
    const scales = this.scales(functions)
    const info = childOf(this.root, 'DocumentInfo')
    return {
      vendorId: this.number(identity, 'vendorId'),
      deviceId: this.number(identity, 'deviceId'),
      vendorName: identity.attributes.vendorName ?? '',
      vendorText: this.textIn(identity, 'VendorText'),
      named: this.textIn(identity, deviceElement),
      deviceFamily: this.textIn(identity, 'DeviceFamily'),
      version: info?.attributes.version ?? '',
      releaseDate: info?.attributes.releaseDate ?? '',
      variants: childrenOf(childOf(identity, 'DeviceVariantCollection'), 'DeviceVariant').map((one) => ({
        productId: one.attributes.productId ?? '',
        name: this.textIn(one, 'Name'),
        about: this.textIn(one, 'Description'),
      })),
      processData: childrenOf(childOf(functions, 'ProcessDataCollection'), 'ProcessData').map((one) => this.processData(one, scales)),
      parameters: this.parameters(childOf(functions, 'VariableCollection'), scales),
      events: childrenOf(childOf(functions, 'EventCollection'), 'Event').map((one) => ({
        ...{ code: this.number(one, 'code'), type: one.attributes.type ?? '' },
        ...{ name: this.textIn(one, 'Name'), about: this.textIn(one, 'Description') },
      })),
      language: this.texts.language,
      languages: this.texts.languages,
    }
  }

  private processData(element: Element, scales: Scales): ProcessData {
    const id = this.attribute(element, 'id')
    const condition = childOf(element, 'Condition')
    const side = (name: string) => {
      const one = childOf(element, name)
      if (!one) return null
      // the id of the data is taken for that of its first side, where somebody writes it so
      const own = one.attributes.id ?? ''
      const shown = scales.has(own) || (name === 'ProcessDataOut' && childOf(element, 'ProcessDataIn')) ? own : id
      return this.record(one, this.number(one, 'bitLength'), this.textIn(one, 'Name'), (subindex) => scales.of(shown, subindex))
    }
    return {
      id,
      condition: condition && {
        variable: this.attribute(condition, 'variableId'),
        subindex: condition.attributes.subindex === undefined ? null : this.number(condition, 'subindex'),
        value: condition.attributes.value ?? '',
      },
      in: side('ProcessDataIn'),
      out: side('ProcessDataOut'),
    }
  }

  private parameters(collection: Element | null, scales: Scales): Parameter[] {
    const own = childrenOf(collection, 'Variable').map((one): Parameter => {
      const [id, name] = [this.attribute(one, 'id'), this.textIn(one, 'Name')]
      return {
        ...{ id, name, about: this.textIn(one, 'Description'), index: this.number(one, 'index'), access: accessOf(one) },
        subindexAccess: this.typeOf(one).attributes.subindexAccessSupported !== 'false',
        record: this.record(one, null, name, (subindex) => scales.of(id, subindex)),
      }
    })
    const standard = childrenOf(collection, 'StdVariableRef').flatMap((one) => standardParameters.get(one.attributes.id ?? '') ?? [])
    return [...standard, ...own].sort((a, b) => a.index - b.index)
  }

  /** What holds a type, as a record of its parts. @param bits that travel; null: as many as the type has */
  private record(holder: Element, bits: number | null, name: string, scaleOf: (subindex: number) => Scale): DataRecord {
    const type = this.typeOf(holder)
    const kind = type.attributes['xsi:type'] ?? type.attributes.type ?? ''
    const length = bits ?? this.bitsOf(type, kind)
    const items = kind === 'RecordT' ? this.recordItems(type, scaleOf) : kind === 'ArrayT' ? this.arrayItems(type, name, scaleOf) : []
    const whole = (): Item[] => [
      { name: name || 'value', about: '', subindex: 0, bitOffset: 0, type: this.simple(type), scale: scaleOf(0) },
    ]
    const all = kind === 'RecordT' || kind === 'ArrayT' ? items : whole()
    if (bits !== null && bits > mostBits) this.refuse(holder, `process data have ${bits} bits, and 256 are the most`)
    const out = all.find((item) => item.bitOffset + item.type.bits > length)
    if (out) this.refuse(holder, `“${out.name}” lies outside of its ${length} bits`)
    return { name, bits: length, items: distinct(all) }
  }

  private recordItems(type: Element, scaleOf: (subindex: number) => Scale): Item[] {
    return childrenOf(type, 'RecordItem').map((one) => {
      const subindex = this.number(one, 'subindex')
      return {
        ...{ name: this.textIn(one, 'Name') || `item ${subindex}`, about: this.textIn(one, 'Description'), subindex },
        ...{ bitOffset: this.number(one, 'bitOffset'), type: this.simple(this.typeOf(one)), scale: scaleOf(subindex) },
      }
    })
  }

  /** Elements one after the other, the first of them highest (7.6). */
  private arrayItems(type: Element, name: string, scaleOf: (subindex: number) => Scale): Item[] {
    const count = this.number(type, 'count')
    const element = this.simple(this.typeOf(type))
    if (count < 1 || count * element.bits > 8 * 232) this.refuse(type, `an array of ${count} elements of ${element.bits} bits is none`)
    return Array.from({ length: count }, (_, i) => ({
      ...{ name: `${name || 'element'} ${i + 1}`, about: '', subindex: i + 1, bitOffset: (count - 1 - i) * element.bits },
      ...{ type: element, scale: scaleOf(i + 1) },
    }))
  }

  /** The type that an element holds, or refers to. */
  private typeOf(holder: Element): Element {
    const inside = childOf(holder, 'Datatype') ?? childOf(holder, 'SimpleDatatype')
    if (inside) return inside
    const reference = childOf(holder, 'DatatypeRef')
    if (!reference) return this.refuse(holder, 'a data type is missing')
    const id = this.attribute(reference, 'datatypeId')
    return this.types.get(id) ?? this.refuse(reference, `there is no data type “${id}”`)
  }

  private simple(type: Element): SimpleType {
    const name = type.attributes['xsi:type'] ?? type.attributes.type ?? ''
    const kind = kinds[name]
    if (!kind) return this.refuse(type, `“${name}” is no data type that can be read here`)
    const names = childrenOf(type, 'SingleValue').flatMap((one) => {
      const value = Number(one.attributes.value === 'true' ? 1 : one.attributes.value === 'false' ? 0 : one.attributes.value)
      const text = this.textIn(one, 'Name')
      return Number.isFinite(value) && text !== '' ? [{ value, name: text }] : []
    })
    const range = childOf(type, 'ValueRange')
    const [low, high] = [Number(range?.attributes.lowerValue), Number(range?.attributes.upperValue)]
    return { kind, bits: this.bitsOf(type, name), names, range: range && Number.isFinite(high - low) ? { low, high } : null }
  }

  private bitsOf(type: Element, kind: string): number {
    const fixed = fixedBits[kind]
    if (fixed !== undefined) return fixed
    if (kind === 'StringT' || kind === 'OctetStringT') return 8 * this.number(type, 'fixedLength')
    if (kind === 'ArrayT') return this.number(type, 'count') * this.simple(this.typeOf(type)).bits
    const bits = this.number(type, 'bitLength')
    if (kind !== 'RecordT' && (bits < 1 || bits > 64)) this.refuse(type, `a whole number of ${bits} bits is none`)
    return bits
  }

  /** Gradients, offsets and units stand apart, where the values are shown. */
  private scales(functions: Element): Scales {
    const found = new Scales()
    const user = childOf(functions, 'UserInterface')
    for (const reference of childrenOf(childOf(user, 'ProcessDataRefCollection'), 'ProcessDataRef')) {
      const id = reference.attributes.processDataId ?? ''
      for (const one of reference.children)
        found.add(id, one.name === 'ProcessDataInfo' ? 0 : Number(one.attributes.subindex ?? 0), this.scale(one))
    }
    for (const menu of childrenOf(within(user, 'MenuCollection'), 'Menu'))
      for (const one of menu.children) {
        const id = one.attributes.variableId
        if (id !== undefined) found.add(id, Number(one.attributes.subindex ?? 0), this.scale(one))
      }
    return found
  }

  private scale(element: Element): Scale {
    const { gradient, offset, unitCode, displayFormat = '' } = element.attributes
    const digits = /^Dec\.(\d)$/.exec(displayFormat)
    return {
      gradient: finite(gradient, 1),
      offset: finite(offset, 0),
      unit: unitCode === undefined ? '' : unitText(Number(unitCode)),
      digits: digits ? Number(digits[1]) : null,
    }
  }

  private textIn(element: Element, name: string): string {
    const id = childOf(element, name)?.attributes.textId
    return id === undefined ? '' : this.texts.of(id)
  }

  private need(element: Element, name: string): Element {
    return childOf(element, name) ?? this.refuse(element, `“${name}” is missing`)
  }

  private attribute(element: Element, name: string): string {
    return element.attributes[name] ?? this.refuse(element, `“${element.name}” has no ${name}`)
  }

  private number(element: Element, name: string): number {
    const value = Number(this.attribute(element, name))
    return Number.isInteger(value) && value >= 0 ? value : this.refuse(element, `${name} of “${element.name}” is no whole number`)
  }

  private refuse(element: Element, problem: string): never {
    throw new Unfit(element.line, problem)
  }
}

const noScale: Scale = { gradient: 1, offset: 0, unit: '', digits: null }

class Scales {
  private all = new Map<string, Scale>()
  private ids = new Set<string>()

  has(id: string): boolean {
    return this.ids.has(id)
  }

  /** The first place where a value is shown counts. */
  add(id: string, subindex: number, scale: Scale) {
    this.ids.add(id)
    const key = `${id} ${subindex}`
    if (!this.all.has(key)) this.all.set(key, scale)
  }

  of(id: string, subindex: number): Scale {
    return this.all.get(`${id} ${subindex}`) ?? noScale
  }
}

const kinds: Record<string, SimpleType['kind']> = {
  ...{ BooleanT: 'bool', UIntegerT: 'uint', IntegerT: 'int', Float32T: 'float' },
  ...{ StringT: 'text', OctetStringT: 'octets', TimeT: 'time', TimeSpanT: 'span' },
}
const fixedBits: Record<string, number> = { BooleanT: 1, Float32T: 32, TimeT: 64, TimeSpanT: 64 }

const accessOf = ({ attributes }: Element): Parameter['access'] =>
  attributes.accessRights === 'rw' || attributes.accessRights === 'wo' ? attributes.accessRights : 'ro'

const finite = (text: string | undefined, otherwise: number) => {
  const value = text === undefined ? NaN : Number(text)
  return Number.isFinite(value) ? value : otherwise
}

/** Names tell items apart; where the document gives one twice, the later has its subindex behind it. */
const distinct = (items: Item[]): Item[] => {
  const seen = new Set<string>()
  return items.map((item) => {
    const name = seen.has(item.name) ? `${item.name} ${item.subindex}` : item.name
    seen.add(name)
    return { ...item, name }
  })
}
