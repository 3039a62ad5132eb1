import type { z } from 'zod'
import type { Given, Operation } from '#shared/api/operation'
import type { checkStep, CheckStep } from '#shared/status'

/** Runs a check and shows each step as it happens. A new run, or `stop`, ends the one before. */
export const useCheck = <O extends Operation<string, z.ZodRawShape, z.ZodType, typeof checkStep>>(operation: O) => {
  const steps = ref<CheckStep[]>([])
  const running = ref(false)
  const ranAt = ref<number | null>(null)
  const problem = ref<Refused | null>(null)
  let abort: AbortController | null = null

  const place = (step: CheckStep) => {
    const index = steps.value.findIndex((known) => known.step === step.step)
    if (index < 0) steps.value.push(step)
    else steps.value[index] = step
  }

  const run = async (given: Given<O>) => {
    abort?.abort()
    const mine = new AbortController()
    abort = mine
    steps.value = []
    problem.value = null
    running.value = true
    try {
      for await (const step of streamApi(operation, given, mine.signal)) if (!mine.signal.aborted) place(step)
      ranAt.value = Date.now()
    } catch (error) {
      if (!mine.signal.aborted) problem.value = asRefused(error)
    } finally {
      if (abort === mine) running.value = false
    }
  }

  const stop = () => {
    abort?.abort()
    running.value = false
    steps.value = steps.value.filter((step) => step.flow !== 'waiting')
  }

  onScopeDispose(() => abort?.abort())
  const failed = computed(() => steps.value.find((step) => step.fault !== null) ?? null)
  return { steps, running, ranAt, problem, failed, run, stop }
}
