/** Does one thing at a time, and keeps why it was refused. */
export const useAttempt = () => {
  const busy = ref(false)
  const refused = shallowRef<Refused | null>(null)
  const attempt = async (work: () => Promise<void>) => {
    busy.value = true
    refused.value = null
    try {
      await work()
    } catch (error) {
      refused.value = asRefused(error)
    } finally {
      busy.value = false
    }
  }
  return { busy, refused, attempt }
}
