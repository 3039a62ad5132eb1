import { protocolOf, type LinkKind } from '#core/links/registry'
import { wordOrders } from '#core/modbus/layout'
import { layoutsOf, type Layout } from '#core/readings/layout'
import { reasonsFor } from '#core/readings/reasons'
import { formText, readingsAt, shownAt } from '#core/readings/readings'
import { samplesFrom, type WordSamples } from '#core/readings/samples'
import { readingRowOf } from '#shared/readingRows'
import type { BlockField, BlockLayout, BlockNow } from '#shared/bench'

export interface BlockAsked {
  kind: LinkKind
  addresses: string[]
  /** The register of which every reading is wanted. */
  open: number | null
}

/** Registers in a row that were good at every moment. */
interface Run {
  from: number
  samples: WordSamples
}

/** What probably lies in a block of registers. */
export const layoutOf = ({ times, words, problems }: BlockNow, { kind, addresses, open }: BlockAsked): BlockLayout => {
  const runs = runsOf({ times, words, problems })
  const { takes } = protocolOf(kind).words!
  const laidOut = runs.map((run) => ({ run, layouts: layoutsOf(run.samples) }))
  const { order, lead } = bestOrder(laidOut.map(({ layouts }) => layouts))
  const fields = laidOut.flatMap(({ run: { from, samples }, layouts }) => {
    const best = layouts.find((layout) => layout.order === order) ?? layouts[0]!
    return best.fields.map((field): BlockField => {
      const at = from + field.at
      return {
        ...{ at, address: addresses[at]!, registers: field.width, label: formText(field), takes: takes(field) },
        ...{ ...shownAt(samples, field.at, field), reasons: reasonsFor(samples, field.at, field) },
      }
    })
  })
  const opened = runs.find(({ from, samples }) => open !== null && open >= from && open < from + samples.words.length)
  return {
    ...{ seconds: ((times.at(-1) ?? 0) - (times[0] ?? 0)) / 1000, moments: times.length, changing: changing(runs) },
    ...{ order, lead, fields, gaps: gapsOf(problems, addresses) },
    readings: opened ? rowsAt(opened, open! - opened.from, fields, takes) : [],
  }
}

/** Registers in a row that are good now, from the moment on at which all of them came to be. */
const runsOf = ({ times, words, problems }: BlockNow): Run[] => {
  const last = words.at(-1)
  const isGood = (register: number) => problems[register] === null && typeof last?.[register] === 'number'
  const runs: { from: number; to: number }[] = []
  problems.forEach((_, register) => {
    if (!isGood(register)) return
    const open = runs.at(-1)
    if (open?.to === register) open.to++
    else runs.push({ from: register, to: register + 1 })
  })
  return runs.map(({ from, to }) => {
    const since = words.findLastIndex((row) => row.slice(from, to).includes(null)) + 1
    const rows = words.slice(since).map((row, i) => ({ at: times[since + i]!, words: row.slice(from, to) as number[] }))
    return { from, samples: samplesFrom(rows) }
  })
}

/** A device has one order of words: the one that leaves least to be said of all runs. */
const bestOrder = (all: readonly Layout[][]) => {
  const bits = wordOrders.map((order) => ({
    order,
    bits: all.reduce((sum, layouts) => sum + (layouts.find((layout) => layout.order === order)?.bits ?? 0), 0),
  }))
  const [best, next] = bits.toSorted((a, b) => a.bits - b.bits)
  return { order: best!.order, lead: next!.bits - best!.bits }
}

const changing = (runs: readonly Run[]) =>
  runs.reduce((count, { samples }) => count + samples.words.filter((word) => word.some((value) => value !== word[0])).length, 0)

/** Registers in a row that are wrong for the same reason. */
const gapsOf = (problems: BlockNow['problems'], addresses: readonly string[]): BlockLayout['gaps'] => {
  const gaps: BlockLayout['gaps'] = []
  problems.forEach((problem, i) => {
    if (problem === null) return
    const last = gaps.at(-1)
    if (last && problems[i - 1] === problem) last.registers++
    else gaps.push({ address: addresses[i]!, registers: 1, problem })
  })
  return gaps
}

const rowsAt = (
  { from, samples }: Run,
  at: number,
  fields: readonly BlockField[],
  takes: NonNullable<ReturnType<typeof protocolOf>['words']>['takes'],
) =>
  readingsAt(samples, at).map((reading) => {
    const label = formText(reading.form)
    return readingRowOf(
      reading,
      takes,
      fields.some((field) => field.at === from + at && field.label === label),
    )
  })
