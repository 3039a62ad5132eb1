import type { z } from 'zod'
import type { Given, Operation } from '#shared/api/operation'
import type { checkPart, CheckPart, Verdict } from '#shared/diagnosis'
import type { CheckStep } from '#shared/status'

/** Runs a check and shows each step as it happens, and what a stop means. A new run, or `stop`, ends the one before. */
export const useCheck = <O extends Operation<string, z.ZodRawShape, z.ZodType, typeof checkPart>>(operation: O) => {
  const steps = ref<CheckStep[]>([])
  const verdict = shallowRef<Verdict | null>(null)
  const running = ref(false)
  const ranAt = ref<number | null>(null)
  const problem = ref<Refused | null>(null)
  let abort: AbortController | null = null

  const place = (step: CheckPart) => {
    if ('verdict' in step) return void (verdict.value = step.verdict)
    const index = steps.value.findIndex((known) => known.step === step.step)
    if (index < 0) steps.value.push(step)
    else steps.value[index] = step
  }

  const run = async (given: Given<O>) => {
    abort?.abort()
    const mine = new AbortController()
    abort = mine
    steps.value = []
    verdict.value = null
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
  return { steps, verdict, running, ranAt, problem, failed, run, stop }
}
