import type { ValueName } from '../../tags/valueNames'
import type { Declared, Program, TypeRef } from './declared'
import { iecType, type IecType } from './iecTypes'

/**
 * Where declared variables lie. `even`: in the order in which they are declared; a run of bits fills bytes, single bytes
 * follow each other; words begin at even bytes, and texts, arrays and structures begin and end there. `natural`: each
 * begins at a multiple of its own size, and a bit takes a byte.
 */
export const layoutRules = ['even', 'natural'] as const
export type LayoutRule = (typeof layoutRules)[number]

export interface Placed {
  names: string[]
  byte: number
  bit: number | null
  type: IecType & { length: number }
  /** Of an enumeration. */
  states: readonly ValueName[]
  /** Elements of an array; 0: it is none. */
  count: number
  comment: string
  line: number
}

export interface Laid {
  placed: Placed[]
  /** Bytes of all of it. */
  bytes: number
  problems: { line: number; text: string }[]
}

/** More variables than this come out of no file that a person wants as tags. */
const mostPlaced = 20_000
const deepest = 30

export const layOut = (variables: readonly Declared[], { types }: Pick<Program, 'types'>, rule: LayoutRule): Laid => {
  const laying = new Laying(types, rule)
  for (const one of variables) laying.add(one)
  return laying.done()
}

class Laying {
  private byte = 0
  /** The next bit of the byte at hand; 0: none of it is taken. */
  private bit = 0
  private placed: Placed[] = []
  private problems: Laid['problems'] = []

  constructor(
    private types: Program['types'],
    private rule: LayoutRule,
  ) {}

  done(): Laid {
    if (this.placed.length >= mostPlaced)
      this.problems.push({ line: 0, text: `Only the first ${mostPlaced.toLocaleString('en-GB')} variables are shown.` })
    this.closeByte()
    return { placed: this.placed, bytes: this.byte, problems: this.problems }
  }

  add(one: Declared) {
    this.place(one.type, [one.name], one, 0)
  }

  private place(type: TypeRef, names: string[], of: Declared, depth: number): void {
    if (depth > deepest) return this.problem(of, `${names.join('.')} holds itself`)
    if (type.kind === 'array') return this.placeArray(type, names, of, depth)
    if (type.kind === 'struct') return this.placeStruct(type, names, of, depth)
    const own = this.types.get(type.name)
    if (own) return this.place(own, names, of, depth + 1)
    const plain = iecType(type.name, type.length)
    if (plain === null)
      return this.problem(
        of,
        `${names.join('.')} is of type ${type.name}, which the file does not declare: where it and what follows it lies cannot be told`,
      )
    this.align(plain)
    this.put(names, plain, 0, of, type.names)
    this.advance(plain)
    if (this.rule === 'even' && plain.type === 'string' && plain.bytes > 1) this.alignTo(2)
  }

  private placeStruct(type: Extract<TypeRef, { kind: 'struct' }>, names: string[], of: Declared, depth: number) {
    const alignment = this.alignmentOf(type, 0)
    this.alignTo(alignment)
    for (const member of type.members)
      this.place(member.type, [...names, member.name], { ...member, comment: member.comment || of.comment }, depth + 1)
    this.alignTo(alignment)
  }

  private placeArray({ ranges, of: element }: Extract<TypeRef, { kind: 'array' }>, names: string[], of: Declared, depth: number) {
    const alignment = this.alignmentOf(element, 0)
    this.alignTo(this.rule === 'even' ? 2 : alignment)
    const plain = this.plainOf(element, 0)
    const [[from, to]] = ranges as [readonly [number, number]]
    const count = to - from + 1
    if (count < 1 || count > mostPlaced) return this.problem(of, `${names.join('.')} has ${count} elements`)
    const isWhole =
      ranges.length === 1 &&
      plain !== null &&
      plain.type !== 'string' &&
      plain.type !== 'datetime' &&
      (plain.type !== 'bool' || this.rule === 'even')
    if (isWhole) {
      this.put(names, plain, count, of)
      for (let i = 0; i < count; i++) this.advance(plain)
    } else
      for (let i = 0; i < count && this.placed.length < mostPlaced; i++) {
        const rest: TypeRef = ranges.length > 1 ? { kind: 'array', ranges: ranges.slice(1), of: element } : element
        this.place(rest, [...names, String(from + i)], of, depth + 1)
      }
    this.alignTo(this.rule === 'even' ? 2 : alignment)
  }

  private put(names: string[], type: Placed['type'], count: number, { comment, line }: Declared, states: Placed['states'] = []) {
    if (this.placed.length >= mostPlaced) return
    const bit = type.type === 'bool' ? this.bit : null
    this.placed.push({ names, byte: this.byte, bit, type, states, count, comment, line })
  }

  private advance({ type, bytes }: IecType) {
    if (type !== 'bool' || this.rule === 'natural') this.byte += bytes
    else if (++this.bit === 8) this.closeByte()
  }

  private align({ type, bytes }: IecType) {
    if (type === 'bool' && this.rule === 'even') return
    this.alignTo(this.rule === 'even' ? (bytes > 1 ? 2 : 1) : naturalOf({ type, bytes }))
  }

  private alignTo(multiple: number) {
    this.closeByte()
    this.byte = Math.ceil(this.byte / multiple) * multiple
  }

  private closeByte() {
    if (this.bit > 0) this.byte++
    this.bit = 0
  }

  private alignmentOf(type: TypeRef, depth: number): number {
    if (this.rule === 'even') return type.kind === 'named' ? 1 : 2
    if (depth > deepest) return 1
    if (type.kind === 'array') return this.alignmentOf(type.of, depth + 1)
    if (type.kind === 'struct') return Math.max(1, ...type.members.map((member) => this.alignmentOf(member.type, depth + 1)))
    const own = this.types.get(type.name)
    const plain = iecType(type.name, type.length)
    return own ? this.alignmentOf(own, depth + 1) : plain ? naturalOf(plain) : 1
  }

  private plainOf(type: TypeRef, depth: number): Placed['type'] | null {
    if (type.kind !== 'named' || depth > deepest) return null
    const own = this.types.get(type.name)
    return own ? this.plainOf(own, depth + 1) : iecType(type.name, type.length)
  }

  private problem({ line }: Declared, text: string) {
    this.problems.push({ line, text: `${text}.` })
  }
}

const naturalOf = ({ type, bytes }: IecType) => (type === 'string' || bytes > 8 ? 1 : bytes)
