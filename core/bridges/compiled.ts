import { FormulaProblem } from '../formulas/value'
import { readExpression, type Worker } from './expression'
import { withSuffix } from './fileName'
import { scopeOf, type Scope } from './names'
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
export const shapersOf = (bridge: Pick<BridgeDraft, 'take' | 'send' | 'lookUps'>): Shaper[] => {
  const scope = scopeOf(bridge)
  return bridge.send.map((destination) => shaperOf(destination, scope))
}

const shaperOf = (destination: Destination, scope: Scope): Shaper => {
  const fields = destination.fields.map(({ into }) => into)
  const workers = destination.fields.map(({ into, from }) => workerOf(into, from, scope))
  const to = placeOf(destination, scope)
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

const workerOf = (into: string, from: string, scope: Scope): Worker => {
  const read = readExpression(from, scope)
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
const placeOf = (destination: Destination, scope: Scope): ((run: RunFacts) => string[]) => {
  if (destination.kind === 'table' || destination.kind === 'call') return () => []
  if (destination.kind === 'tags') {
    const paths = destination.fields.map(({ into }) => filler(into, scope))
    return (run) => paths.map((fill) => fill(run))
  }
  const fill = filler(destination.kind === 'file' ? destination.name : destination.topic, scope)
  if (destination.kind === 'file') return (run) => [fileOf(destination, fill(run), run)]
  return (run) => [fill(run)]
}

const filler = (text: string, scope: Scope) => {
  const read = readTemplate(text, scope)
  if (!read.ok) throw new ShapeProblem(text, read.problem)
  return read.fill
}

/** A day is one of UTC, as all times in files are. */
const fileOf = ({ per }: Extract<Destination, { kind: 'file' }>, name: string, { occasion, number }: RunFacts): string => {
  if (per === 'run') return withSuffix(name, String(number))
  return per === 'day' ? withSuffix(name, new Date(occasion.at).toISOString().slice(0, 10)) : name
}
