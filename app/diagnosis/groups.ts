import type { CheckStep } from '#shared/status'

/** Steps that stand under one heading; null: they have none. */
export interface StepGroup {
  key: string
  title: string | null
  steps: (CheckStep & { number: number })[]
  isSound: boolean
  /** How long all of it took, ms; null: nothing of it has a time. */
  ms: number | null
}

const isSoundStep = ({ flow, fault }: CheckStep) => fault === null && flow !== 'broken' && flow !== 'late'

/** Steps in their order, those that follow one another under one heading together. */
export const groupsOf = (steps: readonly CheckStep[]): StepGroup[] => {
  const groups: StepGroup[] = []
  for (const [i, step] of steps.entries()) {
    const title = step.group ?? null
    let group = groups.at(-1)
    if (!group || group.title !== title) groups.push((group = { key: `${i} ${title ?? ''}`, title, steps: [], isSound: true, ms: null }))
    group.steps.push({ ...step, number: i + 1 })
    group.isSound &&= isSoundStep(step)
    if (step.ms !== null) group.ms = (group.ms ?? 0) + step.ms
  }
  return groups
}
