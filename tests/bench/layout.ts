import { wordOrders, type WordOrder } from '#core/modbus/layout'
import { layoutsOf } from '#core/readings/layout'
import type { WordSamples } from '#core/readings/samples'
import { seriesOf } from '#core/readings/series'
import { madeBlock, type MadeField } from '../support/madeBlocks'

/**
 * Blocks of registers with known layouts. Plain: at each register a float where one of 0.001 to a million moves little, in the
 * order of words that makes most of them; else a single whole number.
 */
const blocks = 100
const registers = 125

interface Found {
  at: number
  width: number
  values: number[]
}

const ours = (samples: WordSamples): Found[] =>
  layoutsOf(samples)[0]!.fields.map((field) => ({ at: field.at, width: field.width, values: valuesOf(samples, field) }))
const valuesOf = (samples: WordSamples, field: Pick<MadeField, 'at' | 'kind' | 'order' | 'width'>) =>
  seriesOf(samples, field.at, field)?.values ?? []

const isFloat = (values: number[]) => {
  const size = Math.max(...values.map(Math.abs))
  const moves = values.slice(1).map((value, i) => Math.abs(value - values[i]!))
  return size > 1e-3 && size < 1e6 && Math.max(...moves) < 0.5 * size
}
const plainIn = (samples: WordSamples, order: WordOrder): Found[] => {
  const fields: Found[] = []
  for (let at = 0; at < samples.words.length;) {
    const float = at + 1 < samples.words.length ? valuesOf(samples, { at, kind: 'float32', order, width: 2 }) : []
    const isOne = float.length > 0 && isFloat(float)
    fields.push(
      isOne ? { at, width: 2, values: float } : { at, width: 1, values: valuesOf(samples, { at, kind: 'uint16', order: null, width: 1 }) },
    )
    at += isOne ? 2 : 1
  }
  return fields
}
const plain = (samples: WordSamples): Found[] =>
  wordOrders.map((order) => plainIn(samples, order)).toSorted((a, b) => a.length - b.length)[0]!

const isRight = (samples: WordSamples, meant: MadeField, found: Found[]) => {
  const values = valuesOf(samples, meant)
  return found.some(
    ({ at, width, values: own }) => at === meant.at && width === meant.width && values.every((value, i) => value === own[i]),
  )
}

const measure = (find: (samples: WordSamples) => Found[]) => {
  let [fields, right, whole] = [0, 0, 0]
  for (let seed = 1; seed <= blocks; seed++) {
    const { samples, fields: meant } = madeBlock(seed)
    const found = find(samples)
    const good = meant.filter((field) => isRight(samples, field, found)).length
    fields += meant.length
    right += good
    whole += Number(good === meant.length)
  }
  const large = madeBlock(4711, registers).samples
  const times = Array.from({ length: 5 }, () => {
    const began = performance.now()
    find(large)
    return performance.now() - began
  })
  return { fields: right / fields, blocks: whole / blocks, ms: times.sort((a, b) => a - b)[2]! }
}

console.log(JSON.stringify({ count: blocks, registers, ours: measure(ours), plain: measure(plain) }))
