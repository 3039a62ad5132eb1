import type { DataType } from '../../tags/types'
import { isArrayType } from '../../tags/types'
import { formatAddress, maxOffset, type Table } from '../address'
import { registersOf, type ModbusType } from '../layout'
import { placeOf, type MapEntry } from './entry'

/** A tag that may get a place. `type` is what consumers get. */
export interface Placeable {
  path: string
  type: DataType
  writable: boolean
}

export interface ProposalWays {
  unit: number
  /** Where to begin in each table. */
  from: number
  /** Tags that can only be read lie in the tables that can only be read, or beside the others. */
  apart: boolean
  /** Where a bool lies: a coil (or input) of its own, or a bit of a register that it shares. */
  bools: 'coils' | 'bits'
  /** Fractions as two registers, or as the tag has them. */
  reals: 'float32' | 'own'
}

export const usualWays: ProposalWays = { unit: 1, from: 0, apart: false, bools: 'coils', reals: 'float32' }

export interface Proposal {
  entries: MapEntry[]
  /** Tags that got no place, and why. */
  left: { path: string; why: string }[]
}

const textLength = 32

/**
 * Places for tags that have none, in the order of their paths, behind what is there: what has a place keeps it, so that
 * clients that were set up stay right.
 */
export const proposed = (tags: readonly Placeable[], there: readonly MapEntry[], ways: ProposalWays): Proposal => {
  const has = new Set(there.filter(({ tells }) => tells === 'value').map(({ path }) => path))
  const next = new Ends(there, ways)
  const entries: MapEntry[] = []
  const left: Proposal['left'] = []
  for (const tag of [...tags].sort((a, b) => (a.path < b.path ? -1 : 1))) {
    if (has.has(tag.path)) continue
    const form = formOf(tag.type, ways.reals)
    const at = form ? next.take(tag, form, ways) : null
    if (!form) left.push({ path: tag.path, why: `${tag.type} has no place in registers` })
    else if (at === null) left.push({ path: tag.path, why: 'its table is full' })
    else entries.push({ path: tag.path, at, ...form, order: 'ABCD', gain: 1, tells: 'value' })
  }
  return { entries, left }
}

interface Form {
  type: ModbusType
  length: number
}

const formOf = (type: DataType, reals: ProposalWays['reals']): Form | null => {
  if (isArrayType(type)) return null
  switch (type) {
    case 'int8':
      return { type: 'int16', length: 0 }
    case 'uint8':
      return { type: 'uint16', length: 0 }
    case 'datetime':
      return { type: 'uint64', length: 0 }
    case 'string':
      return { type: 'string', length: textLength }
    case 'float64':
      return { type: reals === 'float32' ? 'float32' : 'float64', length: 0 }
    default:
      return { type: type as ModbusType, length: 0 }
  }
}

/** Where each table goes on. */
class Ends {
  private ends = new Map<Table, number>()
  /** The register that bools share now, and its next bit. */
  private bits = new Map<Table, { offset: number; bit: number }>()

  constructor(
    there: readonly MapEntry[],
    private ways: ProposalWays,
  ) {
    for (const entry of there) {
      const place = placeOf(entry, ways.unit)
      if (place?.unit === ways.unit) this.ends.set(place.table, Math.max(this.endOf(place.table), place.offset + place.count))
    }
  }

  /** Null: there is no room. */
  take({ writable }: Placeable, { type, length }: Form, { apart, bools }: ProposalWays): string | null {
    const readOnly = apart && !writable
    if (type === 'bool' && bools === 'bits') return this.takeBit(readOnly ? 'input' : 'holding')
    const table: Table = type === 'bool' ? (readOnly ? 'discrete' : 'coil') : readOnly ? 'input' : 'holding'
    const offset = this.takeOffsets(table, type === 'bool' ? 1 : registersOf(type, length))
    return offset === null ? null : formatAddress({ unit: null, table, offset, bit: null })
  }

  private takeBit(table: Table): string | null {
    const open = this.bits.get(table)
    const offset = open && open.bit < 16 ? open.offset : this.takeOffsets(table, 1)
    if (offset === null) return null
    const bit = open?.offset === offset ? open.bit : 0
    this.bits.set(table, { offset, bit: bit + 1 })
    return formatAddress({ unit: null, table, offset, bit })
  }

  private takeOffsets(table: Table, count: number): number | null {
    const offset = this.endOf(table)
    if (offset + count - 1 > maxOffset) return null
    this.ends.set(table, offset + count)
    return offset
  }

  private endOf(table: Table): number {
    return this.ends.get(table) ?? this.ways.from
  }
}
