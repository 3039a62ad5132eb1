import type { Table } from '../address'
import { decoderFor, encodeRegisters, type Decoder } from '../decoding'
import { exception } from '../exceptions'
import { isModbusType, type Layout } from '../layout'
import { encodeReply, limits, type Request } from '../pdu'
import { toEngineering, toRawScalar, type Scaling } from '../../tags/scaling'
import { isArrayValue, type TagValue } from '../../tags/types'
import { Bank } from './bank'
import { placeOf, type MapEntry, type Place } from './entry'
import { markerOf } from './marker'
import { rangeText, type MapWays } from './ways'

interface Placed extends Place {
  entry: MapEntry
  layout: Layout
  scaling: Scaling | null
  decode: Decoder
  isAbsent: boolean
}

/** What a client wants written, value by value; or why not: an exception of the standard, and in words. */
export type Wanted = { ok: true; values: { index: number; value: TagValue }[] } | Denied
export interface Denied {
  ok: false
  exception: number
  problem: string
}

const denied = (code: number, problem: string): Denied => ({ ok: false, exception: code, problem })

const tableOfFunction: Record<1 | 2 | 3 | 4, Table> = { 1: 'coil', 2: 'discrete', 3: 'holding', 4: 'input' }

/**
 * Tags on registers, coils and inputs. Values are put into their registers when they change, all of a value at once, so
 * that a request is answered by a copy and never finds half of one.
 */
export class RegisterMap {
  private placed: (Placed | null)[]
  private units = new Map<number, Map<Table, Bank>>()

  constructor(
    readonly entries: readonly MapEntry[],
    private ways: MapWays,
  ) {
    this.placed = entries.map((entry) => placedOf(entry, ways.unit))
    const claims = new Map<string, { place: Place; owner: number }[]>()
    this.placed.forEach((place, index) => {
      if (!place) return
      const key = `${place.unit} ${place.table}`
      const list = claims.get(key) ?? []
      list.push({ place, owner: index + 1 })
      claims.set(key, list)
    })
    for (const list of claims.values()) this.addBank(list)
    entries.forEach((_, index) => this.tell(index, undefined, false))
  }

  hasUnit(unit: number) {
    return this.units.has(unit)
  }

  placeAt(index: number): Place | null {
    return this.placed[index] ?? null
  }

  /**
   * What a tag has now. @returns why its value cannot stand there; null: it does, or it has none that is good
   */
  tell(index: number, value: TagValue | undefined, isGood: boolean): string | null {
    const placed = this.placed[index]
    if (!placed) return null
    if (placed.entry.tells === 'good') return this.put(placed, isGood, true)
    if (!isGood || value === undefined) return this.put(placed, undefined, false)
    if (isArrayValue(value)) return this.unfit(placed, 'an array has no place in registers')
    const raw = toRawScalar(value, placed.entry.type, placed.scaling)
    return raw.ok ? this.put(placed, raw.raw, true) : this.unfit(placed, raw.detail)
  }

  /** Answers a read with the PDU of its reply. */
  read(unit: number, fc: 1 | 2 | 3 | 4, offset: number, count: number): Buffer | Denied {
    const table = tableOfFunction[fc]
    const most = fc <= 2 ? limits.readBits : limits.readRegisters
    if (count < 1 || count > most) return denied(exception.illegalDataValue, `asked for ${count} at once; 1 to ${most} are possible`)
    const bank = this.units.get(unit)?.get(table)
    const problem = this.gapIn(bank, table, offset, count)
    if (problem) return problem
    if (!bank) return encodeReply({ fc, data: Buffer.alloc(fc <= 2 ? (count + 7) >> 3 : 2 * count) })
    if (this.ways.notGood === 'refuse' && bank.lacks(offset, count))
      return denied(exception.deviceFailure, `asked for ${table}/${offset} to ${offset + count - 1}, where a value is not good now`)
    return encodeReply({ fc, data: bank.isOfBits ? bank.bits(offset, count) : bank.registers(offset, count) })
  }

  /** The entries at these offsets, each once. */
  entriesIn(unit: number, table: Table, offset: number, count: number): Set<number> {
    const found = new Set<number>()
    const bank = this.units.get(unit)?.get(table)
    for (let at = offset; bank && at < Math.min(offset + count, bank.size); at++)
      for (const { owner } of bank.ownersAt(at)) found.add(owner - 1)
    return found
  }

  /** What the data of a reply says of the entries in it; null: only a part of the entry is there. */
  toldIn(unit: number, fc: 1 | 2 | 3 | 4, offset: number, count: number, data: Buffer): { path: string; value: TagValue | null }[] {
    return [...this.entriesIn(unit, tableOfFunction[fc], offset, count)].map((index) => {
      const placed = this.placed[index]!
      const at = placed.offset - offset
      const { path } = placed.entry
      if (fc <= 2) return { path, value: (data[at >> 3]! & (1 << (at & 7))) !== 0 }
      if (at < 0 || at + placed.count > count) return { path, value: null }
      return { path, value: toEngineering(placed.decode(data, 2 * at), placed.scaling) }
    })
  }

  /** What a writing request asks for. Everything is looked at before anything is wanted: half of a request is none. */
  wanted(unit: number, request: Exclude<Request, { fc: 1 | 2 | 3 | 4 }>): Wanted {
    const banks = this.units.get(unit)
    switch (request.fc) {
      case 5:
        return this.coils(banks?.get('coil'), request.offset, [request.on])
      case 15:
        return this.coils(banks?.get('coil'), request.offset, request.coils)
      case 6:
        return this.registers(banks?.get('holding'), request.offset, [request.register])
      case 16:
        return this.registers(banks?.get('holding'), request.offset, request.registers)
      case 22:
        return this.masked(banks?.get('holding'), request)
      case 23:
        return this.registers(banks?.get('holding'), request.writeOffset, request.registers)
    }
  }

  private gapIn(bank: Bank | undefined, table: Table, offset: number, count: number): Denied | null {
    const end = offset + count - 1
    if (end > 65_535) return denied(exception.illegalDataAddress, `asked for ${table}/${offset} to ${end}; a table ends at 65535`)
    if (this.ways.gaps === 'zero' || bank?.isWhole(offset, count)) return null
    return denied(
      exception.illegalDataAddress,
      `asked for ${rangeText(table, offset, count)}, where nothing is mapped at some or all of it`,
    )
  }

  private coils(bank: Bank | undefined, offset: number, coils: readonly boolean[]): Wanted {
    if (coils.length < 1 || coils.length > limits.writeCoils) return wrongCount(coils.length, limits.writeCoils)
    if (!bank?.isWhole(offset, coils.length)) return nothingAt('coil', offset, coils.length)
    return this.allowed(coils.map((value, i) => ({ index: bank.ownersAt(offset + i)[0]!.owner - 1, value })))
  }

  private masked(bank: Bank | undefined, { offset, andMask, orMask }: { offset: number; andMask: number; orMask: number }): Wanted {
    if (!bank?.isWhole(offset, 1)) return nothingAt('holding', offset, 1)
    const now = bank.bytes.readUInt16BE(2 * offset)
    return this.registers(bank, offset, [(now & andMask) | (orMask & ~andMask & 0xffff)])
  }

  private registers(bank: Bank | undefined, offset: number, words: readonly number[]): Wanted {
    if (words.length < 1 || words.length > limits.writeRegisters) return wrongCount(words.length, limits.writeRegisters)
    if (!bank?.isWhole(offset, words.length)) return nothingAt('holding', offset, words.length)
    const bytes = Buffer.alloc(2 * words.length)
    words.forEach((word, i) => bytes.writeUInt16BE(word, 2 * i))
    const values: { index: number; value: TagValue }[] = []
    for (let at = 0; at < words.length;) {
      const owners = bank.ownersAt(offset + at)
      if (owners[0]!.bit !== null) {
        values.push(...changedBits(owners, words[at]!, bank.bytes.readUInt16BE(2 * (offset + at))))
        at++
        continue
      }
      const index = owners[0]!.owner - 1
      const placed = this.placed[index]!
      if (placed.offset !== offset + at || placed.count > words.length - at)
        return denied(
          exception.illegalDataAddress,
          `wanted to write half of ${placed.entry.path}, which lies at ${rangeText('holding', placed.offset, placed.count)} and is written whole`,
        )
      values.push({ index, value: toEngineering(placed.decode(bytes, 2 * at), placed.scaling) })
      at += placed.count
    }
    return this.allowed(values)
  }

  private allowed(values: { index: number; value: TagValue }[]): Wanted {
    const told = values.find(({ index }) => this.entries[index]!.tells === 'good')
    return told
      ? denied(exception.illegalDataAddress, `wanted to write whether ${this.entries[told.index]!.path} is good, which can only be read`)
      : { ok: true, values }
  }

  private unfit(placed: Placed, problem: string): string {
    this.put(placed, undefined, false)
    return problem
  }

  private put(placed: Placed, raw: Parameters<typeof encodeRegisters>[0] | undefined, isThere: boolean): string | null {
    const bank = this.units.get(placed.unit)!.get(placed.table)!
    if (placed.isAbsent !== !isThere) bank.note(placed.offset, placed.count, !isThere)
    placed.isAbsent = !isThere
    if (isThere) return this.write(bank, placed, raw!)
    return this.ways.notGood === 'last' ? null : this.write(bank, placed, markerOf(placed.entry.type))
  }

  private write(bank: Bank, { table, offset, bit, layout }: Placed, raw: Parameters<typeof encodeRegisters>[0]): string | null {
    if (bank.isOfBits) bank.bytes[offset] = Number(raw)
    else if (bit !== null) {
      const now = bank.bytes.readUInt16BE(2 * offset)
      bank.bytes.writeUInt16BE(raw ? now | (1 << bit) : now & ~(1 << bit), 2 * offset)
    } else {
      const words = wordsOf(raw, layout)
      if (!words) return `“${String(raw)}” is longer than the ${layout.length} bytes at ${table}/${offset}`
      words.forEach((word, i) => bank.bytes.writeUInt16BE(word, 2 * (offset + i)))
    }
    return null
  }

  private addBank(list: readonly { place: Place; owner: number }[]) {
    const { unit, table } = list[0]!.place
    const banks = this.units.get(unit) ?? new Map<Table, Bank>()
    banks.set(
      table,
      new Bank(
        table,
        list.map(({ place: { offset, count, bit }, owner }) => ({ offset, count, bit, owner })),
      ),
    )
    this.units.set(unit, banks)
  }
}

const placedOf = (entry: MapEntry, unit: number): Placed | null => {
  const place = placeOf(entry, unit)
  if (!place || !isModbusType(entry.type)) return null
  const layout: Layout = { type: entry.type, order: entry.order, bit: place.bit, length: entry.length }
  const scaling = entry.gain === 1 ? null : { gain: entry.gain, offset: 0 }
  return { ...place, entry, layout, scaling, decode: decoderFor(layout), isAbsent: false }
}

/** Null: it is too long. */
const wordsOf = (raw: Parameters<typeof encodeRegisters>[0], layout: Layout): number[] | null => {
  try {
    return encodeRegisters(raw, layout)
  } catch {
    return null
  }
}

/** Only bits that become others: whoever writes one bit of a word means that bit. */
const changedBits = (owners: readonly { owner: number; bit: number | null }[], word: number, now: number) =>
  owners
    .filter(({ bit }) => ((word ^ now) >>> bit!) & 1)
    .map(({ owner, bit }) => ({ index: owner - 1, value: ((word >>> bit!) & 1) === 1 }))

const wrongCount = (count: number, most: number) =>
  denied(exception.illegalDataValue, `wanted to write ${count} at once; 1 to ${most} are possible`)

const nothingAt = (table: Table, offset: number, count: number) =>
  denied(exception.illegalDataAddress, `wanted to write ${rangeText(table, offset, count)}, where nothing is mapped at some or all of it`)
