/** Removes a thing after it was asked, goes back to the list, and offers to take it back there. */
export const useRemoval = (thing: string, listPath: string) => {
  const notices = useNotices()
  const asking = ref(false)
  const remove = async (path: string, name: string) => {
    try {
      const { revision } = await callApi<{ revision: number }>(path, { method: 'DELETE' })
      asking.value = false
      await navigateTo(listPath)
      notices.tell(`${thing} “${name}” removed.`, revision)
    } catch (error) {
      notices.tellProblem(asRefused(error).why.what)
    }
  }
  return { asking, remove }
}
