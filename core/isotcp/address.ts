import type { DataType } from '../tags/types'

/**
 * Addresses in the memory of a controller: data blocks, inputs, outputs, flags, timers and counters. The letters are those of
 * IEC 61131-3, table 16, for inputs, outputs and flags; blocks are numbered.
 */
export const areas = ['block', 'input', 'output', 'flag', 'timer', 'counter'] as const
export type Area = (typeof areas)[number]

export interface IsoAddress {
  area: Area
  /** The number of the data block; 0 elsewhere. */
  block: number
  /** Bytes from the beginning; of timers and counters the number. */
  offset: number
  bit: number | null
  /** How wide it was written; null: it was not. Only a suggestion for the type. */
  width: Width | null
}
type Width = 'X' | 'B' | 'W' | 'D' | 'L'

export type Parsed = { ok: true; address: IsoAddress; note: string | null } | { ok: false; problem: string }

export const maxOffset = 65_535
export const areaLetter: Record<Area, string> = { block: 'DB', input: 'I', output: 'Q', flag: 'M', timer: 'T', counter: 'C' }
const areaByLetter: Record<string, Area> = {
  I: 'input',
  E: 'input',
  Q: 'output',
  A: 'output',
  M: 'flag',
  T: 'timer',
  C: 'counter',
  Z: 'counter',
}
/** The letters of controllers that are set to German. */
const german: Record<string, string> = { E: 'I', A: 'Q', Z: 'C' }

/** Timers and counters are counted; the rest is a row of bytes. */
export const isCounted = (area: Area) => area === 'timer' || area === 'counter'

const refuse = (problem: string): Parsed => ({ ok: false, problem })
const example = 'DB10.4, DB10.4.0 (a bit), I0.3, QB2, MW20, T5 or C7'

/** Understands `DB10.4`, `DB10.4.0`, `DB10.DBW4`, `DB10.DBX4.0`, `I0.3`, `%IW4`, `MD20`, `T5`, `C7`, and the German letters. */
export const parseAddress = (text: string): Parsed => {
  const input = text.toUpperCase().replace(/\s+/g, '').replace(/^%/, '')
  if (input === '') return refuse(`An address is a block and an offset in bytes, or a place in memory, such as ${example}.`)
  if (input.startsWith('DB')) return parseBlock(input)
  const match = /^([A-Z]+?)([XBWDL])?(\d+)(?:\.(\d+))?$/.exec(input)
  const area = match && areaByLetter[match[1]!]
  if (!match || !area) return refuse(`“${text.trim()}” names no place of a controller: write ${example}.`)
  const [, letter, width, offset, bit] = match
  const note = german[letter!] ? `${letter} is ${german[letter!]} in the letters of the standard.` : null
  if (isCounted(area) && (width || bit)) return refuse(`A ${area} is named by its number alone, as in ${areaLetter[area]}${offset}.`)
  return checked(area, 0, Number(offset), width, bit, note)
}

const parseBlock = (input: string): Parsed => {
  const match = /^DB(\d+)(?:[.,](?:DB)?([XBWDL])?(\d+)(?:\.(\d+))?)?$/.exec(input)
  if (!match) return refuse(`“${input}” is no place in a block: write DB10.4 for byte 4 of block 10, or DB10.4.0 for its lowest bit.`)
  const [, block, width, offset, bit] = match
  if (offset === undefined) return refuse(`Add where in block ${block} it begins, in bytes, as in DB${block}.0.`)
  if (Number(block) < 1 || Number(block) > 65_535) return refuse(`Block ${block} is out of range: blocks have numbers from 1 to 65535.`)
  return checked('block', Number(block), Number(offset), width, bit, null)
}

const checked = (
  area: Area,
  block: number,
  offset: number,
  width: string | undefined,
  bitText: string | undefined,
  note: string | null,
): Parsed => {
  const bit = bitText === undefined ? null : Number(bitText)
  const last = isCounted(area) ? 2047 : maxOffset
  if (offset > last) return refuse(`${offset} is past the end: the last one is ${last}.`)
  if (bit !== null && bit > 7) return refuse(`A byte has bits 0 to 7, not ${bit}.`)
  if (width === 'X' && bit === null)
    return refuse(`X is a single bit: name it, as in ${formatAddress({ area, block, offset, bit: 0, width: null })}.`)
  if (width !== undefined && width !== 'X' && bit !== null)
    return refuse(`${width} is more than a bit: leave “.${bit}” out, or write X for the bit.`)
  return { ok: true, address: { area, block, offset, bit, width: (width as Width | undefined) ?? null }, note }
}

/** The notation we store and show: `DB10.4`, `DB10.4.0`, `I4.0`, `T5`. */
export const formatAddress = ({ area, block, offset, bit }: IsoAddress): string => {
  const head = area === 'block' ? `DB${block}.` : areaLetter[area]
  return `${head}${offset}${bit === null ? '' : `.${bit}`}`
}

/** The same with its width in a letter, as programs have it. @param bytes so wide it is */
export const formatWithWidth = (address: IsoAddress, bytes: number): string => {
  const { area, block, offset, bit } = address
  if (isCounted(area)) return formatAddress(address)
  const head = area === 'block' ? `DB${block}.DB` : areaLetter[area]
  if (bit !== null) return `${head}${area === 'block' ? 'X' : ''}${offset}.${bit}`
  const letter = { 1: 'B', 2: 'W', 4: 'D', 8: 'L' }[bytes] ?? 'B'
  return `${head}${letter}${offset}`
}

const usualByWidth: Record<Width, DataType> = { X: 'bool', B: 'uint8', W: 'int16', D: 'float32', L: 'float64' }

/** What an address yields when nobody says otherwise. */
export const defaultType = ({ area, bit, width }: IsoAddress): DataType => {
  if (area === 'timer') return 'uint32'
  if (area === 'counter') return 'uint16'
  if (bit !== null) return 'bool'
  return width === null ? 'int16' : usualByWidth[width]
}

const numbers = ['uint8', 'int8', 'uint16', 'int16', 'uint32', 'int32', 'uint64', 'int64', 'float32', 'float64'] as const

const onBytes: readonly DataType[] = [...numbers, 'string', 'datetime', ...numbers.map((type): DataType => `${type}[]`)]

/** What a place can be read as. */
export const typesOf = ({ area, bit }: IsoAddress): readonly DataType[] => {
  if (area === 'timer') return ['uint32']
  if (area === 'counter') return ['uint16']
  return bit === null ? onBytes : ['bool', 'bool[]']
}

export const isWritable = (area: Area) => area !== 'input' && !isCounted(area)
