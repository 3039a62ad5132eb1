import { arrayOf, type DataType } from '../../tags/types'
import type { ValueName } from '../../tags/valueNames'
import { visible } from '../../text/visible'
import { formatAddress, isCounted, parseAddress, type IsoAddress } from '../address'
import { isXml } from '../../formats/xml/elements'
import type { Form } from '../layout'
import type { Declared, Program } from './declared'
import { readDeclarations } from './declarations'
import { layOut, type LayoutRule, type Placed } from './layOut'
import { isTable, readTable } from './tables'
import { readTc6 } from './tc6'

/** A variable of a program as a tag. */
export interface ProgramPoint {
  path: string
  address: string
  type: DataType
  form: Form | null
  length: number | null
  count: number | null
  /** Of an enumeration. */
  names: readonly ValueName[]
  description: string
  line: number
}

export interface ProgramPoints {
  points: ProgramPoint[]
  problems: { line: number; text: string }[]
  /** Variables that lie one after the other and name no address: each such group needs the number of its block. */
  groups: { name: string; variables: number; bytes: number; block: number | null }[]
}

interface Wanted {
  /** The block in which variables lie that name no address; null: they are left out. */
  block: number | null
  /** Of single groups, by their names. */
  blocks?: Readonly<Record<string, number>>
  rule: LayoutRule
  /** The folder of its tags; empty: none. */
  folder: string
}

/** The variables of a program with their places, from a table or from declarations. */
export const programPoints = (text: string, { block: usual, blocks = {}, rule, folder }: Wanted): ProgramPoints => {
  const program = readProgram(text)
  const found: ProgramPoints = { points: [], problems: [...program.problems], groups: [] }
  for (const group of program.groups) {
    const block = Object.hasOwn(blocks, group.name) ? blocks[group.name]! : usual
    const own = [...folder.split('/'), group.name].filter(Boolean)
    const [loose, fixed] = [group.variables.filter(({ at }) => at === null), group.variables.filter(({ at }) => at !== null)]
    for (const one of fixed) addFixed(one, program, { block, rule, own }, found)
    const offsets = fixed.filter(({ at }) => offsetIn(at!) !== null).length
    if (loose.length + offsets === 0) continue
    const laid = layOut(loose, program, rule)
    found.groups.push({ name: group.name, variables: loose.length + offsets, bytes: laid.bytes, block })
    found.problems.push(...laid.problems)
    if (block !== null) found.points.push(...laid.placed.map((placed) => pointOf(placed, own, at(block, placed.byte, placed.bit))))
  }
  found.problems.sort((a, b) => a.line - b.line)
  return found
}

const readProgram = (text: string): Program => {
  if (isXml(text)) return readTc6(text)
  return isTable(text) ? readTable(text) : readDeclarations(text)
}

const at = (block: number, offset: number, bit: number | null): IsoAddress => ({ area: 'block', block, offset, bit, width: null })

/** An offset in the block, where it is one: `40` or `40.3`. */
const offsetIn = (at: string) => /^(\d+)(?:\.(\d))?$/.exec(at)

/** One with a place of its own: an address, or an offset in the block. */
const addFixed = (
  one: Declared,
  program: Program,
  { block, rule, own }: { block: number | null; rule: LayoutRule; own: string[] },
  found: ProgramPoints,
) => {
  const offset = offsetIn(one.at!)
  if (offset && block === null) return
  const parsed = offset
    ? { ok: true as const, address: at(block!, Number(offset[1]), offset[2] === undefined ? null : Number(offset[2])) }
    : parseAddress(one.at!)
  if (!parsed.ok) return void found.problems.push({ line: one.line, text: parsed.problem })
  const { placed, problems } = layOut([{ ...one, at: null }], program, rule)
  found.problems.push(...problems)
  const { address } = parsed
  for (const part of placed) {
    const bit = part.bit === null ? null : (address.bit ?? 0) + part.bit
    found.points.push(
      pointOf(part, own, {
        ...address,
        offset: address.offset + part.byte + (bit === null ? 0 : bit >> 3),
        bit: bit === null ? null : bit & 7,
      }),
    )
  }
}

const pointOf = ({ names, type, states, count, comment, line }: Placed, own: string[], address: IsoAddress): ProgramPoint => ({
  path: [...own, ...names.flatMap((name) => name.split('.'))].map(asName).join('/'),
  address: formatAddress(address),
  type: isCounted(address.area) ? (address.area === 'timer' ? 'uint32' : 'uint16') : count > 0 ? arrayOf(type.type) : type.type,
  form: isCounted(address.area) ? null : (type.form ?? null),
  length: type.type === 'string' ? type.length : null,
  count: count > 0 ? count : null,
  names: states,
  description: [comment, type.note].filter(Boolean).join(', '),
  line,
})

/** A name as a part of a path can be. */
const asName = (name: string) => visible(name.replaceAll('/', '_')).trim() || '_'
