interface Saved {
  id: number
  revision: number
}

interface SavingOptions<D extends object, S extends Saved> {
  form: ReturnType<typeof useDraft<D>>
  /** The thing as it was opened; null for a new one. */
  opened: S | null
  /** Sends the draft; `revision` is the one it started from. */
  send(draft: D, revision: number): Promise<S>
  draftOf(saved: S): D
  /** What was done, for the line at the foot of the page. */
  tell(saved: S): string
  after(saved: S): void
}

/** Tags are made in lists; a sheet sends a list of one. */
const firstOfMany = /^tags\.0\./

/**
 * Saving a sheet: nothing goes out while a field is wrong; what the server refuses stands at its
 * fields; and what somebody else saved meanwhile is shown, not overwritten.
 */
export const useSaving = <D extends object, S extends Saved>({ form, opened, send, draftOf, tell, after }: SavingOptions<D, S>) => {
  const notices = useNotices()
  const { question, letGo } = useLeaveGuard(() => form.isDirty.value)
  const busy = ref(false)
  const refused = ref<Refused | null>(null)
  const revision = ref(opened?.revision ?? 0)
  /** The version that somebody else saved after this sheet was opened. */
  const theirs = computed(() => (refused.value?.why.code === 'entry.edited' ? (refused.value.more.current as S) : null))

  const take = (saved: S) => {
    form.reset(draftOf(saved))
    revision.value = saved.revision
    refused.value = null
  }

  const save = async () => {
    form.triedToSave.value = true
    refused.value = null
    if (!form.isValid.value) return
    busy.value = true
    try {
      const saved = await send(form.draft.value, revision.value)
      take(saved)
      notices.tell(tell(saved), saved.revision)
      letGo.value = true
      after(saved)
      await nextTick(() => (letGo.value = false))
    } catch (error) {
      refused.value = asRefused(error)
      form.fromServer.value = refused.value.fields.map(({ path, message }) => ({ path: path.replace(firstOfMany, ''), message }))
    } finally {
      busy.value = false
    }
  }

  const saveOverTheirs = () => {
    revision.value = theirs.value!.revision
    return save()
  }

  return { busy, refused, theirs, question, take, save, saveOverTheirs }
}
