import { wordOrders, type WordOrder } from '../modbus/layout'

/** The ways in which registers hold something. */
export const formKinds = [
  ...['uint16', 'int16', 'uint32', 'int32', 'float32', 'uint64', 'int64', 'float64'],
  ...['bcd16', 'bcd32', 'bits', 'text', 'unix32', 'unix64', 'cp56', 'calendar', 'unused'],
] as const
export type FormKind =
  | 'uint16'
  | 'int16'
  | 'uint32'
  | 'int32'
  | 'float32'
  | 'uint64'
  | 'int64'
  | 'float64'
  | 'bcd16'
  | 'bcd32'
  | 'bits'
  | 'text'
  | 'unix32'
  | 'unix64'
  | 'cp56'
  | 'calendar'
  | 'unused'

export interface Form {
  kind: FormKind
  /** Null where it makes no difference. */
  order: WordOrder | null
  /** Registers. */
  width: number
}

interface FormRules {
  /** Registers; of a text as many as it has. */
  width: number
  /** Which orders make a difference. */
  orders: readonly (WordOrder | null)[]
  /** What it takes to say that a field is of this kind, bits: the rarer in plants, the more. */
  rarity: number
}

const none = [null] as const
/** Of what is read byte by byte only whether the bytes of a word change places. */
const byteOrders = ['ABCD', 'BADC'] as const

export const formRules: Record<FormKind, FormRules> = {
  unused: { width: 1, orders: none, rarity: 1 },
  uint16: { width: 1, orders: none, rarity: 2 },
  int16: { width: 1, orders: none, rarity: 3 },
  bits: { width: 1, orders: none, rarity: 4.5 },
  bcd16: { width: 1, orders: none, rarity: 7 },
  float32: { width: 2, orders: wordOrders, rarity: 2 },
  uint32: { width: 2, orders: wordOrders, rarity: 3 },
  int32: { width: 2, orders: wordOrders, rarity: 4.5 },
  bcd32: { width: 2, orders: wordOrders, rarity: 7 },
  unix32: { width: 2, orders: wordOrders, rarity: 5 },
  float64: { width: 4, orders: wordOrders, rarity: 5 },
  uint64: { width: 4, orders: wordOrders, rarity: 6 },
  int64: { width: 4, orders: wordOrders, rarity: 7 },
  unix64: { width: 4, orders: wordOrders, rarity: 6 },
  cp56: { width: 4, orders: byteOrders, rarity: 5 },
  calendar: { width: 6, orders: none, rarity: 4 },
  text: { width: 0, orders: byteOrders, rarity: 6 },
}

/** The shortest and the longest text that is looked for, registers. */
export const textWidths = { least: 2, most: 24 } as const

/** Every form that fits into so many registers; texts of each length. */
export const formsWithin = (registers: number): Form[] =>
  (Object.keys(formRules) as FormKind[]).flatMap((kind) => {
    const { width, orders } = formRules[kind]
    const widths = kind === 'text' ? textLengths(registers) : width <= registers ? [width] : []
    return widths.flatMap((one) => orders.map((order) => ({ kind, order, width: one })))
  })

const textLengths = (registers: number) =>
  Array.from({ length: Math.max(0, Math.min(registers, textWidths.most) - textWidths.least + 1) }, (_, i) => textWidths.least + i)
