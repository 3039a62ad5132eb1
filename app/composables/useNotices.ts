/** A line at the foot of the page after something was done, with the way to take it back. */
export const useNotices = defineStore('notices', () => {
  const text = ref('')
  const revision = ref<number | null>(null)
  const isProblem = ref(false)

  const tell = (what: string, ofRevision: number | null = null) => {
    text.value = what
    revision.value = ofRevision
    isProblem.value = false
  }

  const tellProblem = (what: string) => {
    tell(what)
    isProblem.value = true
  }

  const takeBack = async () => {
    if (revision.value === null) return
    try {
      await callApi(`/revisions/${revision.value}/take-back`, { method: 'POST' })
      tell('Taken back.')
    } catch (error) {
      tellProblem(asRefused(error).why.what)
    }
  }

  return { text, revision, isProblem, tell, tellProblem, takeBack }
})
