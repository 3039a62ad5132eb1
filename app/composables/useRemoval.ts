/** Removes a thing after it was asked, goes back to the list, and offers to take it back there. */
export const useRemoval = (thing: string, listPath: string, work: () => Promise<{ revision: number }>) => {
  const notices = useNotices()
  const asking = ref(false)
  const remove = async (name: string) => {
    try {
      const { revision } = await work()
      asking.value = false
      await navigateTo(listPath)
      notices.tell(`${thing} “${name}” removed.`, revision)
    } catch (error) {
      notices.tellProblem(asRefused(error).why.what)
    }
  }
  return { asking, remove }
}
