import { nothingBut, type RunFacts } from '../bridges/run'
import { readStatement, type ReadStatement } from '../bridges/statement'
import type { Carried } from '../messages/carried'
import { parametersOf, type Endpoint } from './settings'

/** A statement in which parameters of an endpoint stand in braces. */
export const readLookUp = (endpoint: Pick<Endpoint, 'path' | 'parameters'>, statement: string): ReadStatement =>
  readStatement(statement, { inputs: parametersOf(endpoint).map(({ name }) => ({ name, hasParts: false })), lookUps: [] })

/** What the parts of a statement in braces are worked out from. */
export const factsFor = (
  endpoint: Pick<Endpoint, 'path' | 'parameters'>,
  values: Readonly<Record<string, Carried>>,
  { site, outlet, now }: { site: string; outlet: string; now: number },
): RunFacts => ({
  ...{ occasion: nothingBut('hand', null, now), now, number: 0, row: 1, site, bridge: outlet },
  inputs: parametersOf(endpoint).map(({ name }) => ({ value: values[name] ?? null, quality: 0, at: now, unit: '' })),
})
