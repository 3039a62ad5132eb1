import type { z } from 'zod'
import type { FieldMessage } from '#shared/faults'

/**
 * A form's state: the draft, what is wrong with it while it is typed, what the server said, and
 * whether anything would be lost. Messages show once a field was left, or after a try to save.
 *
 * @param before what there would be without it, where it begins with something that was brought along
 */
export const useDraft = <T extends object>(
  initial: T,
  contract: z.ZodType,
  more: (draft: T) => FieldMessage[] = () => [],
  before: T = initial,
) => {
  const draft = ref(structuredClone(toRaw(initial))) as Ref<T>
  const original = ref(JSON.stringify(before))
  const touched = reactive(new Set<string>())
  const triedToSave = ref(false)
  const fromServer = ref<FieldMessage[]>([])

  const parsed = computed(() => contract.safeParse(draft.value))
  const problems = computed(() => {
    const found = new Map<string, string>()
    const issues = parsed.value.success
      ? []
      : parsed.value.error.issues.map((issue) => ({ path: issue.path.join('.'), message: issue.message }))
    for (const { path, message } of [...issues, ...more(draft.value), ...fromServer.value]) if (!found.has(path)) found.set(path, message)
    return found
  })
  const isValid = computed(() => parsed.value.success && problems.value.size === 0)
  const isDirty = computed(() => JSON.stringify(draft.value) !== original.value)

  watch(draft, () => (fromServer.value = []), { deep: true })

  const messageFor = (path: string) => {
    const shown = triedToSave.value || touched.has(path) || fromServer.value.some((field) => field.path === path)
    return shown ? (problems.value.get(path) ?? '') : ''
  }

  /** Starts over from another version, such as the one just saved. */
  const reset = (to: T) => {
    draft.value = structuredClone(toRaw(to))
    original.value = JSON.stringify(to)
    touched.clear()
    triedToSave.value = false
    fromServer.value = []
  }

  return {
    draft,
    parsed,
    problems,
    isValid,
    isDirty,
    triedToSave,
    messageFor,
    touch: (path: string) => touched.add(path),
    fromServer,
    reset,
  }
}

/** Asks before typed things are lost. Returns what the question needs. */
export const useLeaveGuard = (isDirty: () => boolean) => {
  const question = ref<(() => void) | null>(null)
  const letGo = ref(false)
  onBeforeRouteLeave((to) => {
    if (letGo.value || !isDirty()) return true
    question.value = () => {
      letGo.value = true
      void navigateTo(to.fullPath)
    }
    return false
  })
  const warn = (event: BeforeUnloadEvent) => {
    if (isDirty() && !letGo.value) event.preventDefault()
  }
  onMounted(() => window.addEventListener('beforeunload', warn))
  onUnmounted(() => window.removeEventListener('beforeunload', warn))
  return { question, letGo }
}
