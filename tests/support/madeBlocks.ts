import type { Form } from '#core/readings/forms'
import { wordOrders, type WordOrder } from '#core/modbus/layout'
import { encodeRegisters } from '#core/modbus/decoding'
import type { WordSamples } from '#core/readings/samples'

/** Blocks of registers with a layout that is known, as devices have them, over ten seconds. */

export interface MadeField extends Form {
  at: number
}

const moments = 40
const everyMs = 250

/** Numbers from a seed, the same each time (mulberry32). */
export const randomFrom = (seed: number) => {
  let state = seed >>> 0
  return () => {
    state = (state + 0x6d2b79f5) >>> 0
    let t = Math.imul(state ^ (state >>> 15), 1 | state)
    t = (t + Math.imul(t ^ (t >>> 7), 61 | t)) ^ t
    return ((t ^ (t >>> 14)) >>> 0) / 4294967296
  }
}

type Random = () => number
const among = <T>(random: Random, all: readonly T[]): T => all[Math.floor(random() * all.length)]!
const between = (random: Random, low: number, high: number) => low + random() * (high - low)

/** A quantity as it goes: around a value, slowly up and down, with noise. */
const quantity = (random: Random, usual: number) => {
  const [swing, period, phase, noise] = [
    between(random, 0.002, 0.1),
    between(random, 4, 60),
    between(random, 0, 6.28),
    between(random, 0.0002, 0.01),
  ]
  return (t: number) => usual * (1 + swing * Math.sin(phase + (6.28 * t) / period) + noise * (random() - 0.5))
}

type Maker = (random: Random, order: WordOrder) => { form: Form; words: (t: number, at: number) => number[] }

const numeric = (kind: 'uint16' | 'int16' | 'uint32' | 'float32' | 'float64', order: WordOrder, value: (t: number) => number) => {
  const width = { uint16: 1, int16: 1, uint32: 2, float32: 2, float64: 4 }[kind]
  return {
    form: { kind, width, order: width > 1 ? order : null },
    words: (t: number) => encodeRegisters(value(t), { type: kind, order: width > 1 ? order : 'ABCD', bit: null, length: 0 }),
  }
}
const texts = ['Shore 11 kV', 'Pump house', 'Harrow Sound', 'Feeder 12', 'SN 40127-B', 'Ramp motor', 'Rev 2.14']
const bcdWords = (value: number, width: number) => {
  const digits = String(Math.floor(value))
    .padStart(4 * width, '0')
    .slice(-4 * width)
  return Array.from({ length: width }, (_, i) => parseInt(digits.slice(4 * i, 4 * i + 4), 16))
}

export const makers: Record<string, Maker> = {
  float32: (random, order) => numeric('float32', order, quantity(random, 10 ** between(random, -0.5, 4.5) * (random() < 0.15 ? -1 : 1))),
  setpoint: (random, order) => {
    const value = among(random, [0.5, 1.25, 50, 230, 750, 11_000, 0.8, 400])
    return numeric('float32', order, () => value)
  },
  float64: (random, order) => numeric('float64', order, quantity(random, 10 ** between(random, 0, 5))),
  uint16: (random, order) => {
    const go = quantity(random, between(random, 300, 20_000))
    return numeric('uint16', order, (t) => Math.round(go(t)))
  },
  int16: (random, order) => {
    const go = quantity(random, between(random, 20, 300))
    const offset = between(random, -1.4, -0.6) * 150
    return numeric('int16', order, (t) => Math.round(go(t) + offset))
  },
  counter: (random, order) => {
    const [start, speed] = [Math.floor(between(random, 1e5, 2e8)), between(random, 1, 400)]
    return numeric('uint32', order, (t) => Math.floor(start + speed * t))
  },
  status: (random) => {
    let word = Math.floor(random() * 256)
    return {
      form: { kind: 'bits', width: 1, order: null },
      words: () => {
        if (random() < 0.2) word ^= 1 << Math.floor(random() * 12)
        return [word]
      },
    }
  },
  text: (random) => {
    const text = among(random, texts)
    const width = Math.ceil(text.length / 2)
    return {
      form: { kind: 'text', width, order: 'ABCD' },
      words: () => encodeRegisters(text, { type: 'string', order: 'ABCD', bit: null, length: 2 * width }),
    }
  },
  bcd: (random) => {
    const [start, speed] = [between(random, 1000, 8000), between(random, 2, 30)]
    return { form: { kind: 'bcd16', width: 1, order: null }, words: (t: number) => bcdWords((start + speed * t) % 10_000, 1) }
  },
  clock: (random, order) => {
    const ahead = Math.floor(between(random, -90, 90))
    return {
      form: { kind: 'unix32', width: 2, order },
      words: (_: number, at: number) => encodeRegisters(Math.floor(at / 1000) + ahead, { type: 'uint32', order, bit: null, length: 0 }),
    }
  },
  unused: () => ({ form: { kind: 'unused', width: 1, order: null }, words: () => [0] }),
}

const usual = [
  'float32',
  'float32',
  'float32',
  'uint16',
  'uint16',
  'uint16',
  'int16',
  'counter',
  'setpoint',
  'status',
  'unused',
  'text',
  'float64',
  'bcd',
  'clock',
]

/** A block of fields in runs of one kind, as devices have them. @param most registers, about. */
export const madeBlock = (seed: number, most = 24): { samples: WordSamples; fields: MadeField[]; order: WordOrder } => {
  const random = randomFrom(seed)
  const order = among(random, wordOrders)
  const made: (ReturnType<Maker> & { at: number })[] = []
  let at = 0
  while (at < most) {
    const name = among(random, usual)
    for (let left = 1 + Math.floor(random() * (name === 'text' || name === 'clock' ? 1 : 4)); left > 0; left--) {
      const field = makers[name]!(random, order)
      made.push({ ...field, at })
      at += field.form.width
    }
  }
  const start = 1_790_000_000_000
  const times = Array.from({ length: moments }, (_, i) => start + i * everyMs)
  const rows = times.map((time) => made.flatMap(({ words }) => words((time - start) / 1000, time)))
  return {
    order,
    samples: { times, words: Array.from({ length: at }, (_, register) => Uint16Array.from(rows, (row) => row[register]!)) },
    fields: made.map((field) => ({ ...field.form, at: field.at })),
  }
}
