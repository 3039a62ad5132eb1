import { FormulaProblem } from '../formulas/value'
import { readExpression, type Worker } from './expression'
import { withSuffix } from './fileName'
import type { Shaped } from './parcel'
import type { RunFacts } from './run'
import type { BridgeDraft, Destination } from './settings'
import { readTemplate } from './template'

/** Why nothing came of a run for a destination: which of its fields, and why. */
export class ShapeProblem extends Error {
  constructor(
    readonly field: string,
    problem: string,
  ) {
    super(problem)
  }
}

/** One destination, ready to make records. */
export interface Shaper {
  number: number
  fields: readonly string[]
  /** May throw a `ShapeProblem`. */
  shape(run: RunFacts): Shaped
}

/** Makes the shapers of a bridge; throws where an expression or a template of it cannot be read, which its problems tell before. */
export const shapersOf = ({ take, send }: Pick<BridgeDraft, 'take' | 'send'>): Shaper[] => {
  const inputs = take.map(({ name }) => name)
  return send.map((destination) => shaperOf(destination, inputs))
}

const shaperOf = (destination: Destination, inputs: readonly string[]): Shaper => {
  const fields = destination.fields.map(({ into }) => into)
  const workers = destination.fields.map(({ into, from }) => workerOf(into, from, inputs))
  const to = placeOf(destination, inputs)
  return {
    number: destination.number,
    fields,
    shape: (run) => ({
      to: guarded('the place it goes to', () => to(run)),
      values: workers.map((work, i) => guarded(fields[i]!, () => work(run))),
      at: run.now,
      run: run.number,
    }),
  }
}

const workerOf = (into: string, from: string, inputs: readonly string[]): Worker => {
  const read = readExpression(from, inputs)
  if (!read.ok) throw new ShapeProblem(into, read.problem)
  return read.work
}

const guarded = <T>(field: string, work: () => T): T => {
  try {
    return work()
  } catch (error) {
    throw error instanceof FormulaProblem ? new ShapeProblem(field, error.message) : error
  }
}

/** Paths of tags, the topic, or the name of the file. */
const placeOf = (destination: Destination, inputs: readonly string[]): ((run: RunFacts) => string[]) => {
  if (destination.kind === 'table') return () => []
  if (destination.kind === 'tags') {
    const paths = destination.fields.map(({ into }) => filler(into, inputs))
    return (run) => paths.map((fill) => fill(run))
  }
  const fill = filler(destination.kind === 'file' ? destination.name : destination.topic, inputs)
  if (destination.kind === 'file') return (run) => [fileOf(destination, fill(run), run)]
  return (run) => [fill(run)]
}

const filler = (text: string, inputs: readonly string[]) => {
  const read = readTemplate(text, inputs)
  if (!read.ok) throw new ShapeProblem(text, read.problem)
  return read.fill
}

/** A day is one of UTC, as all times in files are. */
const fileOf = ({ per }: Extract<Destination, { kind: 'file' }>, name: string, { occasion, number }: RunFacts): string => {
  if (per === 'run') return withSuffix(name, String(number))
  return per === 'day' ? withSuffix(name, new Date(occasion.at).toISOString().slice(0, 10)) : name
}
