import { wordOrders, type WordOrder } from '../modbus/layout'
import { formRules, formsWithin, type Form, type FormKind } from './forms'
import { leftToSay } from './judge'
import type { WordSamples } from './samples'

export interface Field extends Form {
  /** Its first register, counted from the first of the block. */
  at: number
  /** What is left to be said of it, bits. */
  bits: number
}

export interface Layout {
  fields: Field[]
  /** What is left to be said of the block with it, bits. */
  bits: number
  /** The order of the words that most of its fields have. */
  order: WordOrder
}

/** A field of the same kind as the one before it, and one in another order than the rest of the block, bits. */
const [again, otherOrder] = [0.7, 7]

/**
 * The layouts of a block of registers that explain best what was seen in it, the best first; one for each order of words. A
 * layout is as good as what it leaves to be said: of each field what kind it is (`rarity`, or next to nothing where it
 * is of the kind of the one before it), its first value, and how it moved. The best way through the block is
 * found by dynamic programming over the registers and the kind of the last field.
 *
 * @param samples at least one moment; the more a block changes meanwhile, the surer the answer.
 */
export const layoutsOf = (samples: WordSamples): Layout[] => {
  const places = judgedPlaces(samples)
  return wordOrders.map((order) => bestWay(places, order)).toSorted((a, b) => a.bits - b.bits)
}

/** Every form at every register, with what it leaves to be said. */
const judgedPlaces = (samples: WordSamples): Field[][] => {
  const forms = formsWithin(samples.words.length)
  return samples.words.map((_, at) => {
    const fields: Field[] = []
    for (const form of forms) {
      if (form.width > samples.words.length - at) continue
      const bits = leftToSay(samples, at, form)
      if (bits < Infinity) fields.push({ kind: form.kind, order: form.order, width: form.width, at, bits })
    }
    return fields
  })
}

interface Step {
  bits: number
  field: Field
  before: Step | null
}

const bestWay = (places: readonly Field[][], order: WordOrder): Layout => {
  const ends: Map<FormKind, Step>[] = Array.from({ length: places.length + 1 }, () => new Map())
  for (const [at, fields] of places.entries()) {
    const arrived = [...ends[at]!.values()]
    if (at > 0 && arrived.length === 0) continue
    for (const field of fields) take(ends[at + field.width]!, cheapest(arrived, field, order))
  }
  const steps = [...ends.at(-1)!.values()]
  const last = steps.reduce<Step | null>((best, step) => (best === null || step.bits < best.bits ? step : best), null)
  const fields: Field[] = []
  for (let step = last; step; step = step.before) fields.push(step.field)
  return { fields: fields.reverse(), bits: last?.bits ?? 0, order }
}

const take = (at: Map<FormKind, Step>, step: Step) => {
  const known = at.get(step.field.kind)
  if (!known || step.bits < known.bits) at.set(step.field.kind, step)
}

const cheapest = (arrived: readonly Step[], field: Field, order: WordOrder): Step => {
  const own = field.bits + (isOtherwise(field, order) ? otherOrder : 0)
  const rare = formRules[field.kind].rarity
  let best: Step = { bits: own + rare, field, before: null }
  if (arrived.length === 0) return best
  best = { ...best, bits: Infinity }
  for (const before of arrived) {
    const bits = before.bits + own + (before.field.kind === field.kind ? again : rare)
    if (bits < best.bits) best = { bits, field, before }
  }
  return best
}

/** Of what is read byte by byte the order says nothing about the words of numbers. */
const isOtherwise = ({ kind, order: own }: Field, order: WordOrder): boolean =>
  own !== null && own !== order && kind !== 'text' && kind !== 'cp56'
