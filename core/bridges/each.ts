import type { Carried } from '../messages/carried'
import type { RunFacts } from './run'
import type { Input } from './settings'

/** So many rows one run makes at most. */
export const mostRows = 10_000

/** Whether it has to be asked for somewhere else. */
export const asksElsewhere = ({ kind }: Pick<Input, 'kind'>): boolean => kind === 'query' || kind === 'call'

/** Which of the inputs is a list of which each element makes a row; −1: none is. */
export const listedInput = (take: readonly Input[]): number => take.findIndex((input) => 'each' in input && input.each)

/** One run for each element of the list that an input has; of a null none. */
export const rowsOf = (run: RunFacts, listed: number): RunFacts[] => {
  if (listed < 0) return [run]
  const whole = run.inputs[listed]!
  const elements: readonly Carried[] = Array.isArray(whole.value) ? (whole.value as readonly Carried[]) : []
  return elements.slice(0, mostRows).map((value, i) => ({
    ...run,
    row: i + 1,
    inputs: run.inputs.map((input, at) => (at === listed ? { ...whole, value } : input)),
  }))
}
